import { useState } from 'react'
import type { Schemas, View } from '../api/client'
import { useSetPurpose } from './queries'
import { conditionsInWords, purposeOf, type SessionPurpose as What } from '../job/view'
import { Refusal } from '../ui/parts'

type Sitting = View['job']['sittings'][number]

const purposes: { value: What; label: string }[] = [
  { value: 'visit', label: 'Counts for this side' },
  { value: 'question', label: 'Answers a separate question' },
  { value: 'check-up', label: 'Check-up after hand-back' },
]

/** Purpose says what a session is for. One for a question is compared with another session, and counts for no side. */
export function Purpose({ view, sitting: s }: { view: View; sitting: Sitting }) {
  const set = useSetPurpose(view.id)
  const [asking, setAsking] = useState(false)
  const is = purposeOf(s)
  const save = (purpose: What, question = '') => {
    setAsking(false)
    const where: Schemas['Where'] | undefined = s.where
    set.run({ sitting: s.id, purpose, question, ...(where && { where }) })
  }
  return (
    <span className="flex flex-wrap items-center gap-2 pt-1">
      <select
        className="select select-sm w-64"
        aria-label="What this session is for"
        value={asking ? 'question' : is}
        onChange={(e) => (e.target.value === 'question' ? setAsking(true) : save(e.target.value as What))}
      >
        {purposes.map((p) => (
          <option key={p.value} value={p.value}>
            {p.label}
          </option>
        ))}
      </select>
      {asking && (
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            const question = (new FormData(e.currentTarget).get('question') as string).trim()
            if (question) save('question', question)
          }}
        >
          <input name="question" className="input input-sm w-56" aria-label="Question" maxLength={200} autoFocus defaultValue={conditionsInWords(s.conditions)[0] ?? ''} />
          <button className="btn btn-sm">Save</button>
        </form>
      )}
      {is === 'question' && !asking && <span className="font-semibold">{s.question}</span>}
      {set.error && <Refusal error={set.error} />}
    </span>
  )
}
