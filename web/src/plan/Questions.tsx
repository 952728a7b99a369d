import type { UseFormReturn } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas } from '../api/client'
import { Field } from '../ui/Field'
import { numeral } from '../ui/numbers'

/** usageSchema is what was answered, by question, as it was typed. */
export const usageSchema = z.object({ answers: z.record(z.string(), numeral) })
export type Usage = z.infer<typeof usageSchema>

/** Questions asks in a few numbers how often the customer does what is timed; what nobody changes stays as the template has it. */
export function Questions({ questions, form }: { questions: Schemas['Question'][]; form: UseFormReturn<Usage> }) {
  return (
    <div className="grid gap-3 sm:grid-cols-3">
      {questions.map((q) => (
        <Field
          key={q.id}
          label={q.text}
          inputMode="decimal"
          unit="times"
          defaultValue={String(q.answer)}
          error={form.formState.errors.answers?.[q.id]?.message}
          {...form.register(`answers.${q.id}`)}
        />
      ))}
    </div>
  )
}
