import { zodResolver } from '@hookform/resolvers/zod'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas, View } from '../api/client'
import { useAmendJob } from '../intake/queries'
import { reasonLabels } from '../intake/Reasons'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Refusal } from '../ui/parts'

type Reason = Schemas['Reason']

const outcomes: { value: NonNullable<Exclude<Reason['outcome'], ''>>; label: string }[] = [
  { value: 'solved', label: 'Solved' },
  { value: 'better', label: 'Better' },
  { value: 'unchanged', label: 'Unchanged' },
  { value: 'other-cause', label: 'Another cause found' },
]

const schema = z.object({ answers: z.array(z.object({ outcome: z.enum(['solved', 'better', 'unchanged', 'other-cause']).optional(), remains: z.string().trim() })) })

/**
 * Answers closes each reason for the visit: what became of it, which is saved at once, and what remains. What somebody is
 * typing or has just chosen stays when the job changes in the meantime.
 */
export function Answers({ view }: { view: View }) {
  // With other reasons it begins again.
  return <AnswersForm key={JSON.stringify(view.job.job.reasons?.map((r) => [r.what, r.words]))} view={view} />
}

function AnswersForm({ view }: { view: View }) {
  const amend = useAmendJob(view.id)
  const reasons = view.job.job.reasons ?? []
  const { register, handleSubmit, control, setValue, reset, formState } = useForm<z.infer<typeof schema>>({
    resolver: zodResolver(schema),
    values: { answers: reasons.map((r) => ({ outcome: r.outcome || undefined, remains: r.remains ?? '' })) },
    resetOptions: { keepDirtyValues: true },
  })
  const { answers } = useWatch({ control })
  if (reasons.length === 0) return null
  const save = handleSubmit((f) => amend.run({ reasons: reasons.map((r, i): Reason => ({ ...r, ...f.answers[i] })) }, () => reset(f, { keepValues: true })))
  return (
    <form
      className="mt-4 flex flex-col gap-3"
      onSubmit={(e) => void save(e)}
    >
      <h2 className="text-xl font-bold">What became of the reasons for the visit</h2>
      {reasons.map((r, i) => (
        <div key={i} className="flex flex-wrap items-end gap-x-5 gap-y-2 border-b border-base-300 pb-3">
          <Choice
            label={r.words || reasonLabels[r.what]}
            value={answers?.[i]?.outcome}
            options={outcomes}
            onChange={(outcome) => {
              setValue(`answers.${i}.outcome`, outcome, { shouldDirty: true })
              void save()
            }}
          />
          <Field className="flex-1 basis-56" label={answers?.[i]?.outcome === 'other-cause' ? 'Which cause' : 'What remains'} maxLength={500} {...register(`answers.${i}.remains`)} />
        </div>
      ))}
      {amend.error && <Refusal error={amend.error} />}
      {formState.isDirty && (
        <CommandButton of={amend} type="submit" className="self-start">
          Save answers
        </CommandButton>
      )}
    </form>
  )
}
