import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { FormProvider, useForm } from 'react-hook-form'
import { z } from 'zod'
import type { Setup, View } from '../api/client'
import { useAddOther, useAddTrial, useAmendJob, useDropOther } from './queries'
import { useNoteUsed } from '../swap/queries'
import { useStay } from '../job/queries'
import { Joins } from '../job/Joins'
import { goesBack, relationOf } from '../job/relation'
import { kindOf } from '../job/stations'
import { driveName, driveOf, setupName } from '../job/view'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { capacity } from '../ui/format'
import { Refusal, SideMark } from '../ui/parts'
import { DriveFields } from './DriveFields'
import { driveSchema, fromDrive, noDrive, toDrive, type DriveInput } from './fields'
import { Stated } from './Stated'

/** InUse notes how much of a setup's drive is in use. */
export function InUse({ view, setup }: { view: View; setup: Setup }) {
  const used = useNoteUsed(view.id)
  const shown = setup.used_bytes ? String(Math.round(setup.used_bytes / 1e8) / 10) : '' // a probe counts bytes
  return (
    <span>
      <label className="flex items-center gap-2">
        In use
        <span className="input w-32">
          <input
            aria-label={`In use on ${setupName(setup)}, GB`}
            inputMode="decimal"
            key={shown}
            defaultValue={shown}
            onBlur={(e) => {
              const said = e.target.value.trim()
              const gb = Number(said.replace(',', '.'))
              if (said !== '' && said !== shown && Number.isFinite(gb)) used.run({ setup: setup.id, bytes: Math.round(gb * 1e9) })
            }}
          />
          <span className="text-secondary">GB</span>
        </span>
        {setup.used_bytes ? <span className="text-secondary">{capacity(setup.used_bytes)}</span> : null}
      </label>
      {used.error && <Refusal error={used.error} />}
    </span>
  )
}

/** Drives lists the drives of the job: as it came, what was tried, what stays, and what else is in the computer. */
export function Drives({ view }: { view: View }) {
  const [adding, setAdding] = useState<'trial' | 'other'>()
  const [changing, setChanging] = useState('')
  const stay = useStay(view.id)
  const drop = useDropOther(view.id)
  const others = [...new Map(view.job.setups.flatMap((s) => s.also ?? []).map((a) => [a.drive, a])).values()]
  const close = () => setAdding(undefined)
  return (
    <section aria-labelledby="drives-title" id="drives" className="scroll-mt-4">
      <h2 id="drives-title" className="text-xl font-bold">
        Drives
      </h2>
      <ul>
        {view.job.setups.map((s) => {
          const d = driveOf(view, s)
          return (
            <li key={s.id} className="flex flex-wrap items-center gap-x-4 border-b border-base-300 py-1.5 max-sm:py-0.5">
              <span className="flex w-28 items-center gap-2 font-semibold">
                {s.role !== 'trial' && <SideMark side={s.role} />} {setupName(s)}
              </span>
              <span className="flex-1 basis-52">
                {driveName(d)} <span className="text-secondary">{[[d?.maker, d?.model].filter(Boolean).join(' '), d?.interface, d?.price && `${d.price.amount} ${d.price.currency}`].filter(Boolean).join(' · ')}</span>
              </span>
              {s.role === 'then' && !goesBack(view) && view.job.job.gates?.some((g) => g.name === 'old-drive-out') && (
                <CommandButton of={stay} size="sm" onClick={() => stay.run(s.id)}>
                  It goes back in
                </CommandButton>
              )}
              {s.role === 'then' && goesBack(view) && <span className="font-semibold">goes back in and stays</span>}
              {s.role === 'now' && kindOf(view) === 'upgrade' && !relationOf(s) && (
                <div className="basis-full pb-1">
                  <Joins view={view} setup={s} label="What the new drive does" />
                </div>
              )}
              {s.role === 'trial' && view.job.job.stays !== s.id && (
                <CommandButton of={stay} size="sm" aria-label={`This one stays: ${setupName(s)}`} onClick={() => stay.run(s.id)}>
                  This one stays
                </CommandButton>
              )}
              {s.role !== 'then' && view.job.job.stays === s.id && <span className="font-semibold">stays</span>}
              {s.role === 'now' && view.job.job.stays && view.job.job.stays !== s.id && (
                <CommandButton of={stay} size="sm" aria-label={`This one stays: ${setupName(s)}`} onClick={() => stay.run(s.id)}>
                  This one stays
                </CommandButton>
              )}
              {s.role === 'trial' && (
                <button type="button" className="link text-sm" aria-expanded={changing === s.id} aria-label={`Change the label: ${setupName(s)}`} onClick={() => setChanging(changing === s.id ? '' : s.id)}>
                  Change
                </button>
              )}
              <Stated view={view} setup={s} />
              {changing === s.id && (
                <div className="basis-full">
                  <Relabel view={view} setup={s} onDone={() => setChanging('')} />
                </div>
              )}
            </li>
          )
        })}
        {others.map((a) => (
          <li key={a.drive} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 py-1.5">
            <span className="w-28 text-secondary">Beside it</span>
            <span className="flex-1 basis-52">
              {driveName(view.job.drives.find((d) => d.id === a.drive))} {a.holds && <span className="text-secondary">holds {a.holds}</span>}
            </span>
            <CommandButton of={drop} size="sm" tone="ghost" onClick={() => drop.run(a.drive)}>
              Remove
            </CommandButton>
          </li>
        ))}
      </ul>
      {(stay.error ?? drop.error) && <Refusal error={stay.error ?? drop.error} />}
      {adding === 'trial' && <AddTrial view={view} onDone={close} />}
      {adding === 'other' && <AddOther view={view} onDone={close} />}
      {!adding && (
        <div className="mt-2 flex flex-wrap gap-2">
          <button type="button" className="btn btn-sm" hidden={kindOf(view) === 'check-up'} onClick={() => setAdding('trial')}>
            {kindOf(view) === 'comparison' ? 'Add a drive to compare' : 'Try another drive'}
          </button>
          <button type="button" className="btn btn-sm" onClick={() => setAdding('other')}>
            Add a drive beside it
          </button>
        </div>
      )}
    </section>
  )
}

const trialSchema = z.object({ name: z.string().trim().max(100, 'Enter at most 100 characters.'), drive: driveSchema })

/** useDriveForm is the form of a drive with a line of words beside it. */
const useDriveForm = () =>
  useForm<z.input<typeof trialSchema>, unknown, z.output<typeof trialSchema>>({
    resolver: zodResolver(trialSchema),
    defaultValues: { name: '', drive: noDrive as DriveInput },
  })

function AddTrial({ view, onDone }: { view: View; onDone: () => void }) {
  const add = useAddTrial(view.id)
  const form = useDriveForm()
  const upgrade = kindOf(view) === 'upgrade'
  const [again, setAgain] = useState('')
  return (
    <FormProvider {...form}>
      <form noValidate className="sheet mt-2 flex flex-col gap-4 p-4" onSubmit={form.handleSubmit((v) => add.run({ name: v.name, ...(again ? { drive_id: again } : { drive: toDrive(v.drive) }), ...(upgrade && { relation: 'tried' as const }) }, onDone))}>
        <Field label={upgrade ? 'Name of the trial' : 'Name'} placeholder={again ? 'outside, by USB' : 'the quiet one'} error={form.formState.errors.name?.message} {...form.register('name')} />
        <label className="text-sm font-semibold">
          Which drive
          <select className="select mt-1 flex w-72" value={again} onChange={(e) => setAgain(e.target.value)}>
            <option value="">Another one</option>
            {view.job.drives.map((d) => (
              <option key={d.id} value={d.id}>
                The {driveName(d)}, in another place
              </option>
            ))}
          </select>
        </label>
        {!again && <DriveFields name="drive" priced />}
        <Buttons of={add} verb={upgrade ? 'Add the trial' : 'Add the drive'} onCancel={onDone} />
      </form>
    </FormProvider>
  )
}

/** Relabel changes what is on the label of a drive. */
function Relabel({ view, setup, onDone }: { view: View; setup: Setup; onDone: () => void }) {
  const amend = useAmendJob(view.id)
  const d = driveOf(view, setup)
  const form = useForm<z.input<typeof trialSchema>, unknown, z.output<typeof trialSchema>>({
    resolver: zodResolver(trialSchema),
    defaultValues: { name: '', drive: fromDrive(d) as DriveInput },
  })
  return (
    <FormProvider {...form}>
      <form noValidate className="sheet mt-2 flex flex-col gap-4 p-4" onSubmit={form.handleSubmit((v) => amend.run({ drives: { [setup.drive]: toDrive(v.drive, d) } }, onDone))}>
        <DriveFields name="drive" priced />
        <Buttons of={amend} verb="Save" onCancel={onDone} />
      </form>
    </FormProvider>
  )
}

function AddOther({ view, onDone }: { view: View; onDone: () => void }) {
  const add = useAddOther(view.id)
  const form = useDriveForm()
  return (
    <FormProvider {...form}>
      <form noValidate className="sheet mt-2 flex flex-col gap-4 p-4" onSubmit={form.handleSubmit((v) => add.run({ drive: toDrive(v.drive), holds: v.name }, onDone))}>
        <Field label="What is on it" placeholder="games, projects …" hint="It stays. Loading from it gets no faster." error={form.formState.errors.name?.message} {...form.register('name')} />
        <DriveFields name="drive" />
        <Buttons of={add} verb="Add the drive" onCancel={onDone} />
      </form>
    </FormProvider>
  )
}

function Buttons({ of, verb, onCancel }: { of: { isPending: boolean; error: unknown }; verb: string; onCancel: () => void }) {
  return (
    <>
      {Boolean(of.error) && <Refusal error={of.error} />}
      <div className="flex gap-2">
        <CommandButton of={of} type="submit" tone="primary" size="sm">
          {verb}
        </CommandButton>
        <button type="button" className="btn btn-sm" onClick={onCancel}>
          Cancel
        </button>
      </div>
    </>
  )
}
