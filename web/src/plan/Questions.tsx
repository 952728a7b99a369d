import type { Schemas } from '../api/client'
import { Field } from '../ui/Field'

/** Questions asks in a few numbers how often the customer does what is timed. */
export function Questions({
  questions,
  answers,
  onChange,
}: {
  questions: Schemas['Question'][]
  answers: Record<string, string>
  onChange: (id: string, text: string) => void
}) {
  return (
    <div className="grid gap-3 sm:grid-cols-3">
      {questions.map((q) => (
        <Field key={q.id} label={q.text} inputMode="decimal" unit="times" defaultValue={answers[q.id] ?? ''} onChange={(e) => onChange(q.id, e.target.value)} />
      ))}
    </div>
  )
}
