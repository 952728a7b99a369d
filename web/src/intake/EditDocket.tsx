import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { FormProvider, useForm } from 'react-hook-form'
import type { View } from '../api/client'
import { useAmendJob } from './queries'
import { ComputerFields } from './ComputerFields'
import { DriveFields } from './DriveFields'
import { Reasons, type Reason } from './Reasons'
import { fromComputer, fromDrive, intakeSchema, toComputer, toDrive, type IntakeInput, type IntakeOutput } from './fields'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { FormProblems } from '../ui/FormProblems'
import { Refusal } from '../ui/parts'
import { Unsaved } from '../ui/Unsaved'
import { Joins } from '../job/Joins'
import { kindOf } from '../job/stations'
import { driveOf, setupAs } from '../job/view'

/** EditDocket changes what was said at intake, in place. */
export function EditDocket({ view, onDone }: { view: View; onDone: () => void }) {
  const amend = useAmendJob(view.id)
  const kind = kindOf(view)
  const oldDrive = driveOf(view, kind === 'upgrade' ? setupAs(view, 'then') : view.job.setups[0])
  const now = kind === 'upgrade' ? setupAs(view, 'now') : undefined
  const newDrive = driveOf(view, now)
  const computer = view.job.computers[0]
  const form = useForm<IntakeInput, unknown, IntakeOutput>({
    resolver: zodResolver(intakeSchema),
    defaultValues: {
      customer: { name: view.job.job.customer?.name ?? '', contact: view.job.job.customer?.contact ?? '' },
      reason: view.job.job.reason,
      computer: fromComputer(computer),
      kind,
      oldDrive: fromDrive(oldDrive),
      newDrive: fromDrive(newDrive),
    },
  })
  const { register, formState, handleSubmit } = form
  const [reasons, setReasons] = useState<Reason[]>(view.job.job.reasons ?? [])
  const save = (v: IntakeOutput) =>
    amend.run(
      {
        customer: v.customer,
        reason: v.reason,
        reasons,
        computer: toComputer(v.computer, computer),
        ...(oldDrive && { old_drive: toDrive(v.oldDrive, oldDrive) }),
        ...(v.newDrive && { new_drive: toDrive(v.newDrive, newDrive) }),
      },
      onDone,
    )
  return (
    <FormProvider {...form}>
      <form
        noValidate
        onSubmit={handleSubmit(save)}
        onKeyDown={(e) => e.key === 'Escape' && onDone()}
        className="flex flex-col gap-6 border-t border-base-300 p-4 md:p-5"
      >
        <div className="grid gap-3 sm:grid-cols-3">
          <Field label="Customer" error={formState.errors.customer?.name?.message} {...register('customer.name')} />
          <Field label="Contact" error={formState.errors.customer?.contact?.message} {...register('customer.contact')} />
          <Field label="Reason, in the customer’s words" error={formState.errors.reason?.message} {...register('reason')} />
        </div>
        <Reasons value={reasons} onChange={setReasons} />
        <div className="grid gap-6 lg:grid-cols-3">
          <Part title="Computer">
            <ComputerFields name="computer" open />
          </Part>
          {oldDrive && (
            <Part title={kind === 'upgrade' ? 'Then: the old drive' : kind === 'comparison' ? 'First drive' : 'The drive that is in it'}>
              <DriveFields name="oldDrive" open />
            </Part>
          )}
          {kind === 'upgrade' && (
            <Part title="Now: the new drive">
              <DriveFields name="newDrive" priced open />
              {now && <Joins view={view} setup={now} label="What the new drive does" />}
            </Part>
          )}
        </div>
        <Unsaved when={form.formState.isDirty && !amend.isPending && !amend.isSuccess} />
        <FormProblems />
        {amend.error && <Refusal error={amend.error} />}
        <div className="flex gap-2">
          <CommandButton of={amend} type="submit" tone="primary">
            Save
          </CommandButton>
          <button type="button" className="btn" onClick={onDone}>
            Cancel
          </button>
        </div>
      </form>
    </FormProvider>
  )
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <fieldset className="flex flex-col gap-3">
      <legend className="mb-2 font-bold">{title}</legend>
      {children}
    </fieldset>
  )
}
