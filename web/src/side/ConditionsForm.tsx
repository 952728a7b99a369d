import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { useForm, useWatch, type UseFormReturn } from 'react-hook-form'
import { client, data, type Conditions, type Schemas } from '../api/client'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Refusal } from '../ui/parts'
import { busyKinds, conditionsOf, formOf, noNulls, schema, type Form } from './conditions'

const busyLabels: Record<(typeof busyKinds)[number], string> = {
  recording: 'a recording',
  download: 'a download',
  update: 'an update',
  indexing: 'indexing',
  backup: 'a backup',
  scan: 'a virus scan',
  other: 'something else',
}

const notKnown = { value: 'unknown', label: 'Not known' } as const
const yesNo = [{ value: 'yes', label: 'Yes' }, { value: 'no', label: 'No' }, notKnown] as const

const pill = (on: boolean) => `btn btn-sm h-10 ${on ? 'btn-primary' : ''} has-focus-visible:outline-3`

/** ConditionsForm asks for the test conditions; on this computer it can detect them. */
export function ConditionsForm({
  start = {},
  here,
  dir,
  verb,
  error,
  busy,
  onDone,
}: {
  start?: Conditions
  /** here: what is measured is the computer that the bench runs on. */
  here?: boolean
  dir?: string
  verb: string
  error: unknown
  busy: boolean
  onDone: (c: Schemas['ConditionsIn']) => void
}) {
  const form = useForm<Form>({ resolver: zodResolver(schema), mode: 'onChange', defaultValues: formOf(start) })
  const { register, handleSubmit, control, setValue, getValues, reset, formState } = form
  const [detected, setDetected] = useState<Conditions>(start)
  const [looking, setLooking] = useState(false)
  const [failed, setFailed] = useState<unknown>()
  const f = useWatch({ control }) as Form

  const look = async () => {
    setLooking(true)
    setFailed(undefined)
    try {
      const seen = await data(client.GET('/api/conditions', { params: { query: { dir } } }))
      // Detected values replace entered ones; the rest stays as entered.
      const all: Conditions = { ...conditionsOf(getValues(), detected), ...noNulls(seen as Conditions) } as Conditions
      setDetected(all)
      reset(formOf(all))
    } catch (e) {
      setFailed(e)
    }
    setLooking(false)
  }
  const quiet = (known: boolean) => {
    setValue('busyKnown', known)
    setValue('busy', [])
    setValue('encrypting', known ? 'no' : 'unknown')
  }
  const passing = f.encrypting === 'yes'
  const nothing = f.busy.length === 0 && !passing
  return (
    <form aria-label="Conditions" className="sheet mt-2 flex flex-col gap-4 p-4" onSubmit={(e) => void handleSubmit((done) => onDone(conditionsOf(done, detected)))(e)}>
      <div className="flex flex-wrap gap-x-8 gap-y-4">
        <Choice
          label="Power"
          value={f.power}
          options={[{ value: 'mains', label: 'Mains' }, { value: 'battery', label: 'Battery' }, notKnown]}
          onChange={(v) => setValue('power', v)}
        />
        <Choice
          label="Power mode"
          value={f.powerMode}
          options={[{ value: 'normal', label: 'Normal' }, { value: 'saving', label: 'Saving' }, notKnown]}
          onChange={(v) => setValue('powerMode', v)}
        />
        <Choice label="Drive encrypted" value={f.encrypted} options={[...yesNo]} onChange={(v) => setValue('encrypted', v)} />
        <Field className="w-36" label="How full" unit="%" inputMode="decimal" error={formState.errors.fill?.message} {...register('fill')} />
      </div>
      <fieldset>
        <legend className="mb-1 text-sm font-semibold">What else is running</legend>
        <div className="flex flex-wrap gap-1.5">
          <label className={pill(nothing && !f.busyKnown)}>
            <input type="radio" name="quiet" className="sr-only" checked={nothing && !f.busyKnown} onChange={() => quiet(false)} />
            Not known
          </label>
          <label className={pill(nothing && f.busyKnown)}>
            <input type="radio" name="quiet" className="sr-only" checked={nothing && f.busyKnown} onChange={() => quiet(true)} />
            nothing
          </label>
          {busyKinds.map((k) => (
            <label key={k} className={pill(f.busy.includes(k))}>
              <input
                type="checkbox"
                className="sr-only"
                checked={f.busy.includes(k)}
                onChange={(e) => {
                  setValue('busy', e.target.checked ? [...f.busy, k] : f.busy.filter((x) => x !== k))
                  setValue('busyKnown', true)
                }}
              />
              {busyLabels[k]}
            </label>
          ))}
          <label className={pill(passing)}>
            <input type="checkbox" className="sr-only" checked={passing} onChange={(e) => setValue('encrypting', e.target.checked ? 'yes' : 'no')} />
            an encryption pass
          </label>
        </div>
      </fieldset>
      {f.busy.includes('recording') && (
        <p role="status" className="border-l-4 border-info pl-3">
          Recording on this computer slows it down. Film the screen with a phone instead and time the clip.
        </p>
      )}
      <Further form={form} f={f} />
      {(typeof detected.background_mb_s === 'number' || typeof detected.cpu_pct === 'number') && (
        <p className="text-sm text-secondary">
          Detected just now: {detected.background_mb_s ?? '–'} MB/s of other traffic on the drives, processor {detected.cpu_pct ?? '–'} % busy.
        </p>
      )}
      {Boolean(failed) && <Refusal error={failed} />}
      {Boolean(error) && <Refusal error={error} />}
      <div className="flex flex-wrap gap-2">
        <CommandButton of={{ isPending: busy }} type="submit" tone="primary">
          {verb}
        </CommandButton>
        {here && (
          <button type="button" className="btn" disabled={looking} onClick={() => void look()}>
            {looking ? 'Detecting …' : 'Detect automatically'}
          </button>
        )}
      </div>
    </form>
  )
}

/** Further are the conditions that matter to starts alone, folded away until somebody has them. */
function Further({ form, f }: { form: UseFormReturn<Form>; f: Form }) {
  const { register, setValue, formState } = form
  const { defaultValues } = formState
  return (
    <details open={defaultValues?.attached !== 'unknown' || Boolean(defaultValues.firmware || defaultValues.storageMode || defaultValues.off) || defaultValues.quickStart !== 'unknown'}>
      <summary className="cursor-pointer text-sm font-semibold text-secondary">More: attached devices, firmware, the room</summary>
      <div className="flex flex-wrap items-end gap-x-6 gap-y-3 pt-3">
        <Choice
          label="Other drives, sticks and docks"
          value={f.attached}
          options={[{ value: 'none', label: 'None attached' }, { value: 'some', label: 'Some' }, notKnown]}
          onChange={(v) => setValue('attached', v)}
        />
        {f.attached === 'some' && <Field className="w-72" label="Which" hint="with commas between" maxLength={500} {...register('devices')} />}
        <Field className="w-40" label="Firmware version" maxLength={200} {...register('firmware')} />
        <Choice label="Quick start" value={f.quickStart} options={[{ value: 'yes', label: 'On' }, { value: 'no', label: 'Off' }, notKnown]} onChange={(v) => setValue('quickStart', v)} />
        <Field className="w-40" label="Storage mode" maxLength={100} placeholder="AHCI, RAID …" {...register('storageMode')} />
        <Field className="w-64" label="Controllers switched off" hint="with commas between" maxLength={500} {...register('off')} />
        <Field className="w-28" label="The room" unit="°C" inputMode="decimal" error={formState.errors.room?.message} {...register('room')} />
      </div>
    </details>
  )
}
