import { useFormContext } from 'react-hook-form'
import { Field } from '../ui/Field'
import { More } from '../ui/More'
import type { ComputerInput } from './fields'

/** folded are the fields that fold away; a wrong one unfolds them. */
const folded = ['processor', 'memory', 'system'] as const

/** ComputerFields is the form of a computer without its drive. */
export function ComputerFields({ name, open }: { name: string; open?: boolean }) {
  const { register, formState, getFieldState } = useFormContext()
  const field = (key: keyof ComputerInput, label: string, more?: object) => (
    <Field label={label} error={getFieldState(`${name}.${key}`, formState).error?.message} {...more} {...register(`${name}.${key}`)} />
  )
  return (
    <div className="flex flex-col gap-4">
      <div className="grid gap-3 sm:grid-cols-2">
        {field('maker', 'Maker')}
        {field('model', 'Model')}
      </div>
      <More what="processor, memory, system" open={open || folded.some((k) => getFieldState(`${name}.${k}`, formState).error)}>
        {field('processor', 'Processor')}
        {field('memory', 'Memory', { unit: 'GiB', inputMode: 'decimal' })}
        {field('system', 'System')}
      </More>
    </div>
  )
}
