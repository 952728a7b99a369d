import { Controller, useFormContext, useWatch } from 'react-hook-form'
import { driveKinds } from '../job/view'
import { Choice } from '../ui/Choice'
import { Field } from '../ui/Field'
import { More } from '../ui/More'
import { driveKindIds, unusual, type DriveInput } from './fields'

const kindOptions = driveKindIds.map((value) => ({ value, label: driveKinds[value] }))

/** folded are the fields that fold away; a wrong one unfolds them. */
const folded = ['interface', 'maker', 'model', 'read', 'write', 'price', 'currency'] as const

/** DriveFields is the form of one drive. Only its kind is needed; the rest can come later. */
export function DriveFields({ name, priced, open }: { name: string; priced?: boolean; open?: boolean }) {
  const { control, register, formState, getFieldState } = useFormContext()
  const [kind, capacity] = useWatch({ control, name: [`${name}.kind`, `${name}.capacity`] }) as [string | undefined, string]
  const field = (key: keyof DriveInput) => register(`${name}.${key}`)
  const error = (key: keyof DriveInput) => getFieldState(`${name}.${key}`, formState).error?.message
  return (
    <div className="flex flex-col gap-4">
      <Controller
        control={control}
        name={`${name}.kind`}
        render={({ field }) => (
          <Choice label="Kind" value={field.value} options={kindOptions} onChange={field.onChange} error={error('kind')} />
        )}
      />
      <Field className="w-56" label="Capacity" placeholder="480 GB" error={error('capacity')} hint={unusual(kind, capacity) || undefined} {...field('capacity')} />
      <More what={`maker, model, interface, rated rates${priced ? ', price' : ''}`} open={open || folded.some((k) => error(k))}>
        <Field label="Interface" placeholder="SATA 6 Gb/s" error={error('interface')} {...field('interface')} />
        <Field label="Maker" error={error('maker')} {...field('maker')} />
        <Field label="Model" error={error('model')} {...field('model')} />
        <Field label="Rated reading" unit="MB/s" inputMode="decimal" error={error('read')} {...field('read')} />
        <Field label="Rated writing" unit="MB/s" inputMode="decimal" error={error('write')} {...field('write')} />
        {priced && (
          <>
            <Field label="Price" inputMode="decimal" error={error('price')} {...field('price')} />
            <Field label="Currency" maxLength={3} error={error('currency')} {...field('currency')} />
          </>
        )}
      </More>
    </div>
  )
}
