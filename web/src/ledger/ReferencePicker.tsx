import { zodResolver } from '@hookform/resolvers/zod'
import { useForm } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas } from '../api/client'
import { Field } from '../ui/Field'
import { day } from '../ui/format'
import { Refusal, Simulated } from '../ui/parts'

export type Reference = Schemas['Reference']

const schema = z.object({ number: z.string().trim().min(1, 'Its number, such as 2026-0001.').max(60) })

/** ReferencePicker sets a drive of an earlier job beside the lines. It is in no group and no report. */
export function ReferencePicker({ reference: r, error, onPick }: { reference?: Reference; error: unknown; onPick: (number?: string, setup?: string) => void }) {
  const { register, handleSubmit, formState } = useForm({ resolver: zodResolver(schema), defaultValues: { number: '' } })
  if (r) {
    return (
      <section aria-label="For reference" className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1 border-l-4 border-base-300 py-1 pl-3">
        <p className="flex-1 basis-72">
          <strong>For reference:</strong> {r.drive}, {r.computer}, job {r.number}, {day(r.at)}. {r.figures.length === 0 ? 'It shares no test with this job.' : 'It is for reference only.'}
          {r.simulated && <Simulated />}
        </p>
        {r.setups.length > 1 && (
          <select className="select w-56" aria-label="Drive of that job" value={r.setup} onChange={(e) => onPick(r.number, e.target.value)}>
            {r.setups.map((s) => (
              <option key={s.id} value={s.id}>
                {s.drive}
              </option>
            ))}
          </select>
        )}
        <button type="button" className="btn btn-sm" onClick={() => onPick()}>
          Remove it
        </button>
      </section>
    )
  }
  return (
    <details className="mt-3">
      <summary className="cursor-pointer text-secondary">Compare with an earlier job for reference</summary>
      <form noValidate className="flex flex-wrap items-end gap-2 pt-2" onSubmit={(e) => void handleSubmit((f) => onPick(f.number))(e)}>
        <Field className="w-48" label="Number of that job" placeholder="2026-0001" error={formState.errors.number?.message} {...register('number')} />
        <button className="btn">Show it</button>
      </form>
      {Boolean(error) && <Refusal error={error} />}
    </details>
  )
}
