import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { Controller, useForm, useWatch } from 'react-hook-form'
import type { Probe, View } from '../api/client'
import { useCheckDrive } from './queries'
import { UnderWay } from './UnderWay'
import { DriveChoice } from '../probe/DriveChoice'
import { readsFiles } from '../probe/probe'
import { useProbes } from '../probe/queries'
import { useReach } from '../access/queries'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Refusal } from '../ui/parts'
import { likely, checkSchema, writableOn, requestOf, type CheckForm } from './checkForm'

/** CheckDrive lets the probe check the new drive: whether it has the capacity it reports, and how it holds up. fitted: it is in the computer. */
export function CheckDrive({ view, fitted }: { view: View; fitted: boolean }) {
  const probes = useProbes(view.id).data?.filter((p) => !p.leaving) ?? []
  const [asking, setAsking] = useState(false)
  const there = probes.filter((p) => !p.away)
  const under = probes.filter((p) => !readsFiles(p) && p.checking?.state === 'running')
  const failed = there.filter((p) => !readsFiles(p) && p.checking?.state === 'failed')
  if (under.length > 0) return under.map((p) => <UnderWay key={p.id} job={view.id} probe={p} stop="Stop" />)
  if (there.length === 0) return null
  return (
    <div className="pt-2">
      {failed.map((p) => (
        <p key={p.id} role="alert" className="border-l-4 border-error pl-3">
          <span className="font-semibold">The last check failed:</span> {p.checking?.error}
        </p>
      ))}
      {!asking && (
        <button type="button" className="btn btn-sm mt-1" onClick={() => setAsking(true)}>
          {fitted ? 'Check under load …' : 'Check with the probe …'}
        </button>
      )}
      {asking && <Form view={view} probes={there} fitted={fitted} onDone={() => setAsking(false)} />}
    </div>
  )
}

function Form({ view, probes, fitted, onDone }: { view: View; probes: Probe[]; fitted: boolean; onDone: () => void }) {
  const check = useCheckDrive(view.id)
  const drives = writableOn(view, probes)
  const form = useForm<CheckForm>({
    resolver: zodResolver(checkSchema),
    defaultValues: { place: likely(view, drives), label: '', what: fitted ? 'sustain' : 'sample', minutes: fitted ? '5' : '1', load: fitted, graphics: false, heatSink: '', room: '' },
  })
  const { register, formState } = form
  const bench = useReach().data?.addresses[0]?.url ?? location.origin
  const [what, load] = useWatch({ control: form.control, name: ['what', 'load'] })
  const says = check.error?.refusal.fields
  const wrong = formState.errors.place?.message ?? says?.mount
  return (
    <form
      noValidate
      aria-label="Check the new drive"
      className="sheet mt-2 flex flex-col gap-3 p-4"
      onSubmit={(e) => void form.handleSubmit((f) => check.run(requestOf(f), onDone))(e)}
    >
      <Controller
        control={form.control}
        name="place"
        render={({ field }) => (
          <DriveChoice drives={drives} value={field.value} onPick={field.onChange} none="The probe sees no drive but the old one. Connect the new one." error={wrong} />
        )}
      />
      <div className="flex flex-wrap items-start gap-3">
        <Field className="w-52" label="Code on its label" hint="As on the drive; not needed while it is empty" autoComplete="off" spellCheck={false} error={says?.label} {...register('label')} />
        <label className="flex max-w-full flex-col gap-1 text-sm font-semibold">
          Check
          <select className="select w-80 max-w-full" {...register('what')}>
            {!fitted && <option value="sample">True capacity, a sample of 4 GiB</option>}
            {!fitted && <option value="whole">True capacity, all of it</option>}
            <option value="sustain">Sustained writing and temperature</option>
          </select>
        </label>
      </div>
      {what === 'sustain' && (
        <div className="flex flex-wrap items-end gap-3">
          <label className="flex flex-col gap-1 text-sm font-semibold">
            For at most
            <select className="select w-36" {...register('minutes')}>
              {['1', '5', '10', '30'].map((m) => (
                <option key={m} value={m}>
                  {m} min
                </option>
              ))}
            </select>
          </label>
          <label className="flex flex-col gap-1 text-sm font-semibold">
            Heat sink
            <select className="select w-36" {...register('heatSink')}>
              <option value="">not known</option>
              <option value="yes">fitted</option>
              <option value="no">none</option>
            </select>
          </label>
          <Field className="w-32" label="Room" unit="°C" inputMode="decimal" error={formState.errors.room?.message ?? says?.room_c} {...register('room')} />
          <label className="flex h-10 items-center gap-2">
            <input type="checkbox" className="checkbox" {...register('load')} />
            Repeat with the processor loaded
          </label>
          {load && (
            <label className="flex h-10 items-center gap-2">
              <input type="checkbox" className="checkbox" {...register('graphics')} />
              Graphics loaded by a program
            </label>
          )}
        </div>
      )}
      {what === 'sustain' && load && (
        <p>
          To load the graphics as well, open <code className="select-all">{bench}/load</code> on that computer; while they draw it, that is noted automatically.
        </p>
      )}
      <p className="text-secondary">Only free space is written to{what === 'sustain' && ', at most 64 GiB each time'}; test files are removed.</p>
      {check.error && !says && <Refusal error={check.error} />}
      <div className="flex gap-2">
        <CommandButton of={check} type="submit" tone="primary">
          Start writing
        </CommandButton>
        <button type="button" className="btn btn-ghost" onClick={onDone}>
          Cancel
        </button>
      </div>
    </form>
  )
}
