import { z } from 'zod'
import type { Schemas } from '../api/client'

/** promiseSchema is what is in the form by which something is promised. */
export const promiseSchema = z
  .object({
    what: z.string().min(1),
    words: z.string().trim().max(500, 'Enter at most 500 characters.'),
    due: z.string().regex(/^\d{4}-\d{2}-\d{2}$/, 'A day.'),
  })
  .refine((f) => f.what !== 'words' || f.words !== '', { path: ['words'], error: 'Describe the follow-up.' })
export type PromiseForm = z.infer<typeof promiseSchema>

/** toPromise is what a form promises: "fill", "words", or a test by its id. */
export function toPromise(f: PromiseForm): Schemas['Promising'] {
  const test = f.what !== 'fill' && f.what !== 'words' ? f.what : undefined
  return { what: test ? 'test' : (f.what as 'fill' | 'words'), ...(test && { test }), ...(f.words && { words: f.words }), due: f.due }
}
