import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { FormProvider, useForm } from 'react-hook-form'
import { z } from 'zod'
import type { View } from '../api/client'
import { useAddTrial, useNoteUsed, useStay } from '../api/queries'
import { DriveFields } from '../intake/DriveFields'
import { driveSchema, noDrive, toDrive } from '../intake/fields'
import { Field } from '../ui/Field'
import { capacity } from '../ui/format'
import { Refusal } from '../ui/parts'
import { driveName, driveOf, setupName } from './view'

/** Trials lists the drives of the job: as it came, what was tried, what stays. */
export function Trials({ view }: { view: View }) {
  const [adding, setAdding] = useState(false)
  const stay = useStay(view.id)
  const used = useNoteUsed(view.id)
  return (
    <section aria-labelledby="trials">
      <h2 id="trials" className="text-xl font-bold">
        Drives of this job
      </h2>
      <ul>
        {view.job.setups.map((s) => (
          <li key={s.id} className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-base-300 py-1.5">
            <span className="font-semibold">{setupName(s)}</span>
            <span className="flex-1">{driveName(driveOf(view, s))}</span>
            <label className="flex items-center gap-2 text-sm text-secondary">
              in use
              <input
                className="input input-sm w-24"
                aria-label={`In use on ${setupName(s)}, GB`}
                inputMode="decimal"
                placeholder="GB"
                defaultValue={s.used_bytes ? s.used_bytes / 1e9 : ''}
                onBlur={(e) => {
                  const gb = Number(e.target.value.replace(',', '.'))
                  if (e.target.value.trim() !== '' && Number.isFinite(gb)) used.run({ setup: s.id, bytes: Math.round(gb * 1e9) })
                }}
              />
              {s.used_bytes ? capacity(s.used_bytes) : 'GB'}
            </label>
            {s.role === 'trial' && (
              <button type="button" className="btn btn-sm" aria-label={`${setupName(s)} stays`} onClick={() => stay.run(s.id)}>
                This one stays
              </button>
            )}
          </li>
        ))}
      </ul>
      {(stay.error ?? used.error) && <Refusal error={stay.error ?? used.error} />}
      {adding ? (
        <AddTrial view={view} onDone={() => setAdding(false)} />
      ) : (
        <button type="button" className="btn btn-ghost btn-sm mt-2" onClick={() => setAdding(true)}>
          Try another drive
        </button>
      )}
    </section>
  )
}

const trialSchema = z.object({ name: z.string().trim().max(100, 'That is longer than 100 characters.'), drive: driveSchema })

function AddTrial({ view, onDone }: { view: View; onDone: () => void }) {
  const add = useAddTrial(view.id)
  const form = useForm<z.input<typeof trialSchema>, unknown, z.output<typeof trialSchema>>({
    resolver: zodResolver(trialSchema),
    defaultValues: { name: '', drive: { ...noDrive, kind: 'sata-ssd' } },
  })
  return (
    <FormProvider {...form}>
      <form
        noValidate
        className="sheet mt-2 flex flex-col gap-4 p-4"
        onSubmit={form.handleSubmit((v) => add.run({ name: v.name, drive: toDrive(v.drive) }, onDone))}
      >
        <Field label="Name of the trial" placeholder="the quiet one" error={form.formState.errors.name?.message} {...form.register('name')} />
        <DriveFields name="drive" priced />
        {add.error && <Refusal error={add.error} />}
        <div className="flex gap-2">
          <button className="btn btn-primary btn-sm" disabled={add.isPending}>
            Add the trial
          </button>
          <button type="button" className="btn btn-sm" onClick={onDone}>
            Cancel
          </button>
        </div>
      </form>
    </FormProvider>
  )
}
