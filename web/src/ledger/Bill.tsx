import { zodResolver } from '@hookform/resolvers/zod'
import { Plus, X } from 'lucide-react'
import { useState } from 'react'
import { useFieldArray, useForm } from 'react-hook-form'
import type { Ledger, View } from '../api/client'
import { useSetBill } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { capacity } from '../ui/format'
import { Refusal } from '../ui/parts'
import { Unsaved } from '../ui/Unsaved'
import { billOf, billSchema, type BillForm } from './billForm'

/** Bill is the cost of the work, and what it brought. */
export function Bill({ view, ledger }: { view: View; ledger: Ledger }) {
  const [open, setOpen] = useState(false)
  const v = ledger.value
  const said = [
    v?.drive && `The drive cost ${v.drive} ${v.currency}${v.per_tb ? `, ${v.per_tb.toFixed(2)} ${v.currency} a TB (${capacity(ledger.with.capacity_bytes)})` : ''}.`,
    ...ledger.value_words,
  ].filter(Boolean)
  return (
    <section aria-labelledby="bill" className="pt-6">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 id="bill" className="mr-auto text-xl font-bold">
          What it cost and bought
        </h2>
        <button type="button" className="btn btn-sm" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Close' : 'Change the bill'}
        </button>
      </div>
      {said.length > 0 ? <p>{said.join(' ')}</p> : <p className="text-secondary">No price is entered.</p>}
      {open && <Form view={view} onDone={() => setOpen(false)} />}
    </section>
  )
}

function Form({ view, onDone }: { view: View; onDone: () => void }) {
  const save = useSetBill(view.id)
  const { register, control, handleSubmit, formState } = useForm<BillForm>({ resolver: zodResolver(billSchema), defaultValues: billOf(view) })
  const { fields, append, remove } = useFieldArray({ control, name: 'items' })
  const { errors } = formState
  const refused = save.error?.refusal.fields
  return (
    <form noValidate className="sheet mt-2 flex flex-col gap-4 p-4" onSubmit={(e) => void handleSubmit((f) => save.run(f, onDone))(e)}>
      <Unsaved when={formState.isDirty && !save.isPending} />
      <fieldset>
        <legend className="text-sm font-semibold">Beside the drive: adapters, parts, labour</legend>
        <ul className="flex flex-col gap-2 pt-1">
          {fields.map((f, i) => (
            <li key={f.id} className="flex flex-wrap items-start gap-2">
              <Field bare className="min-w-48 flex-1" label={`Item ${i + 1}`} placeholder="what it is" error={errors.items?.[i]?.what?.message} {...register(`items.${i}.what`)} />
              <Field bare className="w-36" label={`Amount of item ${i + 1}`} placeholder="0.00" inputMode="decimal" error={errors.items?.[i]?.amount?.message} {...register(`items.${i}.amount`)} />
              <button type="button" className="btn btn-ghost btn-square" aria-label={`Remove item ${i + 1}`} onClick={() => remove(i)}>
                <X size={18} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
        <button type="button" className="btn btn-sm mt-2" onClick={() => append({ what: '', amount: '' })}>
          <Plus size={16} aria-hidden /> Add item
        </button>
      </fieldset>
      <div className="flex flex-wrap gap-4">
        <Field className="w-56" label="Value of an hour of the customer’s time" placeholder="if they said" inputMode="decimal" error={errors.hour_worth?.message ?? refused?.hour_worth} {...register('hour_worth')} />
        <Field className="w-56" label="A comparable new computer costs" inputMode="decimal" error={errors.new_computer?.message ?? refused?.new_computer} {...register('new_computer')} />
        <Field className="w-56" label="System updates end on" type="date" error={errors.support_ends?.message ?? refused?.support_ends} {...register('support_ends')} />
      </div>
      {save.error && <Refusal error={save.error} />}
      <CommandButton of={save} type="submit" tone="primary" className="self-start">
        Save
      </CommandButton>
    </form>
  )
}
