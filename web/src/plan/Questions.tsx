import type { UseFormReturn } from 'react-hook-form'
import type { Schemas } from '../api/client'
import { Field } from '../ui/Field'

/** Usage is what was answered, by question, as it was typed. */
export type Usage = { answers: Record<string, string> }

/** Questions asks in a few numbers how often the customer does what is timed; what nobody changes stays as the template has it. */
export function Questions({ questions, form }: { questions: Schemas['Question'][]; form: UseFormReturn<Usage> }) {
  return (
    <div className="grid gap-3 sm:grid-cols-3">
      {questions.map((q) => (
        <Field key={q.id} label={q.text} inputMode="decimal" unit="times" defaultValue={String(q.answer)} {...form.register(`answers.${q.id}`)} />
      ))}
    </div>
  )
}
