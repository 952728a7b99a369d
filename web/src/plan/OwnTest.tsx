import { zodResolver } from '@hookform/resolvers/zod'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas } from '../api/client'
import { Choice } from '../ui/Choice'
import { Field } from '../ui/Field'

type Kind = 'timed' | 'file' | 'control' | 'note'

/** inUnits are the kinds whose unit is typed. */
const inUnits = (kind: Kind) => kind === 'note' || kind === 'control'

/** phasesFrom reads phases from a line: names between commas; one in brackets does not count. */
export function phasesFrom(line: string): Schemas['Phase'][] {
  return line
    .split(',')
    .map((p) => p.trim())
    .filter(Boolean)
    .map((p) => (/^\(.*\)$/.test(p) ? { id: '', name: p.slice(1, -1).trim(), counts: false } : { id: '', name: p }))
}

const schema = z
  .object({ kind: z.enum(['timed', 'file', 'control', 'note']), better: z.enum(['lower', 'higher']), name: z.string().trim().min(1, 'It needs a name.'), phases: z.string(), unit: z.string().trim() })
  .refine((f) => !inUnits(f.kind) || f.unit !== '', { path: ['unit'], message: 'It needs a unit.' })

/** OwnTest makes up a test of the technician's own. */
export function OwnTest({ onAdd }: { onAdd: (t: Schemas['NewTest'], done: () => void) => void }) {
  const { register, handleSubmit, control, setValue, resetField, formState } = useForm({
    resolver: zodResolver(schema),
    defaultValues: { kind: 'timed' as Kind, better: 'lower' as 'lower' | 'higher', name: '', phases: '', unit: '' },
  })
  const [kind, better] = useWatch({ control, name: ['kind', 'better'] })
  const { errors } = formState
  return (
    <details>
      <summary className="cursor-pointer font-bold">A test of your own</summary>
      <form
        className="flex flex-wrap items-end gap-3 pt-3"
        onSubmit={(e) =>
          void handleSubmit((f) =>
            onAdd({ kind: f.kind, name: f.name, better: f.better, ...(inUnits(f.kind) ? { unit: f.unit } : f.kind === 'timed' ? { phases: phasesFrom(f.phases) } : {}) }, () => resetField('name')),
          )(e)
        }
      >
        <Choice
          label="What it is"
          value={kind}
          options={[
            { value: 'timed', label: 'A wait, timed' },
            { value: 'file', label: 'Work on files, timed' },
            { value: 'control', label: 'A check that the drive doesn’t affect' },
            { value: 'note', label: 'A reading' },
          ]}
          onChange={(v) => setValue('kind', v)}
        />
        <Field className="w-64" label="Name" error={errors.name?.message} {...register('name')} />
        {kind === 'timed' && (
          <Field
            className="w-96 max-w-full"
            label="Phases, if it has any"
            hint="With commas between; one in brackets does not count: to the window, (code), to the list"
            {...register('phases')}
          />
        )}
        {inUnits(kind) && (
          <>
            <Field className="w-28" label="Unit" error={errors.unit?.message} {...register('unit')} />
            <Choice
              label="Better is"
              value={better}
              options={[
                { value: 'lower', label: 'Lower' },
                { value: 'higher', label: 'Higher' },
              ]}
              onChange={(v) => setValue('better', v)}
            />
          </>
        )}
        <button className="btn">Add</button>
      </form>
    </details>
  )
}
