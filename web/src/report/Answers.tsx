import { useState } from 'react'
import type { Schemas, View } from '../api/client'
import { useAmendJob } from '../api/queries'
import { reasonLabels } from '../intake/Reasons'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { Refusal } from '../ui/parts'

type Reason = Schemas['Reason']

const outcomes: { value: NonNullable<Exclude<Reason['outcome'], ''>>; label: string }[] = [
  { value: 'solved', label: 'Solved' },
  { value: 'better', label: 'Better' },
  { value: 'unchanged', label: 'Unchanged' },
  { value: 'other-cause', label: 'Another cause found' },
]

/** Answers closes each reason for the visit: what became of it, and what remains. */
export function Answers({ view }: { view: View }) {
  const amend = useAmendJob(view.id)
  const [reasons, setReasons] = useState<Reason[]>(view.job.job.reasons ?? [])
  if (reasons.length === 0) return null
  const put = (i: number, part: Partial<Reason>) => setReasons(reasons.map((r, k) => (k === i ? { ...r, ...part } : r)))
  const changed = JSON.stringify(reasons) !== JSON.stringify(view.job.job.reasons)
  return (
    <div className="mt-4 flex flex-col gap-3">
      <h3 className="font-bold">What became of the reasons for the visit</h3>
      {reasons.map((r, i) => (
        <div key={i} className="flex flex-wrap items-end gap-x-5 gap-y-2 border-b border-base-300 pb-3">
          <Choice label={r.words || reasonLabels[r.what]} value={r.outcome || undefined} options={outcomes} onChange={(outcome) => put(i, { outcome })} />
          <label className="flex-1 basis-56 text-sm font-semibold">
            {r.outcome === 'other-cause' ? 'Which cause' : 'What remains'}
            <input className="input mt-1 w-full" maxLength={500} value={r.remains ?? ''} onChange={(e) => put(i, { remains: e.target.value })} />
          </label>
        </div>
      ))}
      {amend.error && <Refusal error={amend.error} />}
      <CommandButton of={amend} className="self-start" disabled={!changed} onClick={() => amend.run({ reasons })}>
        Save answers
      </CommandButton>
    </div>
  )
}
