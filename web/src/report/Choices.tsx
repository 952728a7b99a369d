import { zodResolver } from '@hookform/resolvers/zod'
import { ArrowDown, ArrowUp } from 'lucide-react'
import { useFieldArray, useForm, useWatch } from 'react-hook-form'
import type { View } from '../api/client'
import { useChooseForReport } from './queries'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { Refusal } from '../ui/parts'
import { Unsaved } from '../ui/Unsaved'
import { chosenOf, linesOf, photosOf, schema, type Choices } from './chosen'

/** ChoicesForm is what the technician chooses for the draft: which lines in which order, how long, how wordy, and a note. */
export function ChoicesForm({ view }: { view: View }) {
  // It begins again when there are other lines or photos to choose from, not with every change of the job.
  return <Form key={JSON.stringify([view.job.job.report, linesOf(view), photosOf(view)])} view={view} />
}

function Form({ view }: { view: View }) {
  const choose = useChooseForReport(view.id)
  const before = view.job.job.report
  const { register, handleSubmit, control, setValue, reset, formState } = useForm<Choices>({
    resolver: zodResolver(schema),
    defaultValues: { note: before?.note ?? '', tone: before?.short ? 'short' : 'explained', length: before?.length || 'two', photos: photosOf(view), lines: linesOf(view) },
  })
  const { fields, move } = useFieldArray({ control, name: 'lines' })
  const photos = photosOf(view)
  const [tone, length] = useWatch({ control, name: ['tone', 'length'] })
  return (
    <details className="border-y border-base-300 py-2">
      <summary className="cursor-pointer font-semibold">Adjust the report</summary>
      <form className="flex flex-col gap-4 py-3" onSubmit={(e) => void handleSubmit((f) => choose.run(chosenOf(f), () => reset(f)))(e)}>
        <Unsaved when={formState.isDirty && !choose.isPending} />
        <label className="flex max-w-3xl flex-col gap-1 text-sm font-semibold">
          Note to the customer, on the first page
          <textarea className="textarea w-full text-base font-normal" rows={3} maxLength={1000} {...register('note')} />
          {formState.errors.note && <span className="text-error">{formState.errors.note.message}</span>}
        </label>
        <div className="flex flex-wrap gap-x-8 gap-y-4">
          <Choice
            label="Words"
            value={tone}
            options={[
              { value: 'explained', label: 'Explained' },
              { value: 'short', label: 'Short' },
            ]}
            onChange={(v) => setValue('tone', v, { shouldDirty: true })}
          />
          <Choice
            label="Length on paper"
            value={length}
            options={[
              { value: 'one', label: 'One page' },
              { value: 'two', label: 'Two pages' },
              { value: 'full', label: 'With all runs' },
            ]}
            onChange={(v) => setValue('length', v, { shouldDirty: true })}
          />
        </div>
        <fieldset>
          <legend className="text-sm font-semibold">Lines, in their order. What is left out is named on the report.</legend>
          <ul>
            {fields.map((l, i) => (
              <li key={l.id} className="flex items-center gap-2 border-b border-base-300">
                <label className="flex min-h-11 flex-1 cursor-pointer items-center gap-3">
                  <input type="checkbox" className="checkbox" disabled={l.headline} {...register(`lines.${i}.shown`)} />
                  {l.name}
                  {l.headline && <span className="text-secondary"> (the headline)</span>}
                </label>
                <button type="button" className="btn btn-ghost btn-square" aria-label={`Move ${l.name} up`} disabled={i === 0} onClick={() => move(i, i - 1)}>
                  <ArrowUp size={16} aria-hidden />
                </button>
                <button type="button" className="btn btn-ghost btn-square" aria-label={`Move ${l.name} down`} disabled={i === fields.length - 1} onClick={() => move(i, i + 1)}>
                  <ArrowDown size={16} aria-hidden />
                </button>
              </li>
            ))}
          </ul>
        </fieldset>
        {photos.length > 0 && (
          <fieldset>
            <legend className="text-sm font-semibold">Photos on the report, up to four</legend>
            <div className="flex flex-wrap gap-4 pt-1">
              {photos.map((p, i) => (
                <label key={p.id} className="flex w-40 cursor-pointer flex-col gap-1 text-sm">
                  <img className="h-28 w-40 rounded-sm bg-base-200 object-cover" src={`/api/jobs/${view.id}/photos/${p.id}?size=thumbnail`} alt="" />
                  <span className="flex items-center gap-2">
                    <input type="checkbox" className="checkbox" {...register(`photos.${i}.shown`)} /> {p.of}
                  </span>
                </label>
              ))}
            </div>
          </fieldset>
        )}
        {choose.error && <Refusal error={choose.error} />}
        <CommandButton of={choose} type="submit" tone="primary" className="self-start" disabled={!formState.isDirty}>
          Save choices
        </CommandButton>
      </form>
    </details>
  )
}
