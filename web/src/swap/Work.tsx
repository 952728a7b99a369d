import { zodResolver } from '@hookform/resolvers/zod'
import { useCallback, useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { View } from '../api/client'
import { useDropWork, useNoteWork } from './queries'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Fold } from '../ui/Fold'
import { time } from '../ui/format'
import { Refusal } from '../ui/parts'
import { Undo } from '../ui/Undo'

const kinds = ['cleaning', 'memory', 'cooling', 'firmware', 'drivers', 'tidying', 'other'] as const

const schema = z.object({
  what: z.enum(kinds),
  note: z.string().trim(),
  memory: z
    .string()
    .trim()
    .refine((v) => v === '' || gib(v) > 0, 'Enter a number in GiB, such as 16.'),
  processor: z.string().trim(),
  graphics: z.string().trim(),
})

const gib = (v: string) => Number(v.replace(',', '.'))

const nothing = { what: undefined, note: '', memory: '', processor: '', graphics: '' }

/** Work is other work of the visit, noted when it is done, because it can change the figures, too. */
export function Work({ view }: { view: View }) {
  const note = useNoteWork(view.id)
  const work = view.job.job.work ?? []
  const drop = useDropWork(view.id)
  const [gone, setGone] = useState<(typeof work)[number]>()
  const forget = useCallback(() => setGone(undefined), [])
  const { register, handleSubmit, control, setValue, reset, formState } = useForm<z.input<typeof schema>>({ resolver: zodResolver(schema), defaultValues: nothing })
  const what = useWatch({ control, name: 'what' }) as (typeof kinds)[number] | undefined
  return (
    <Fold title="Other work" status={work.length === 0 ? 'none noted' : work.map((w) => w.what).join(', ')}>
      {work.length === 0 && <p className="text-secondary">Cleaning, cooling or updates between Then and Now affect the results, too.</p>}
      <ul>
        {work.map((w) => (
          <li key={w.at + w.what} className="border-b border-base-300 py-1.5">
            <span className="font-semibold">{w.what}</span> {w.note} <span className="text-secondary">{time(w.at)}</span>{' '}
            {w.id && (
              <CommandButton of={drop} size="sm" tone="ghost" aria-label={`Remove ${w.what}`} onClick={() => drop.run(w.id!, () => setGone(w))}>
                Remove
              </CommandButton>
            )}
          </li>
        ))}
      </ul>
      {gone && <Undo what={`${gone.what} was removed.`} onUndo={() => note.run({ what: gone.what, note: gone.note, at: gone.at, touches: gone.touches, fitted: gone.fitted }, forget)} onGone={forget} />}
      {drop.error && <Refusal error={drop.error} />}
      <form
        className="flex flex-col gap-2 pt-2"
        onSubmit={(e) =>
          void handleSubmit((f) => {
            const fitted = {
              ...(f.memory && { memory_bytes: Math.round(gib(f.memory) * 2 ** 30) }),
              ...(f.processor && { processor: f.processor }),
              ...(f.graphics && { graphics: f.graphics }),
            }
            note.run({ what: f.what, note: f.note, ...(Object.keys(fitted).length > 0 && { fitted }) }, () => reset(nothing))
          })(e)
        }
      >
        <Choice label="Just done" value={what} options={kinds.map((value) => ({ value, label: value }))} onChange={(v) => setValue('what', v)} />
        {what && (
          <div className="flex flex-wrap items-end gap-2">
            <Field className="flex-1 basis-56" label="Note" bare placeholder="Note" maxLength={500} {...register('note')} />
            {what === 'memory' && <Field className="w-56" label="Memory fitted now" unit="GiB" inputMode="decimal" maxLength={20} error={formState.errors.memory?.message} {...register('memory')} />}
            {(what === 'other' || what === 'cooling') && <Field className="w-56" label="Processor fitted now, if changed" maxLength={200} {...register('processor')} />}
            {what === 'other' && <Field className="w-56" label="Graphics fitted now, if changed" maxLength={200} {...register('graphics')} />}
            <CommandButton of={note} type="submit" tone="primary">
              Save
            </CommandButton>
          </div>
        )}
        {note.error && <Refusal error={note.error} />}
      </form>
    </Fold>
  )
}
