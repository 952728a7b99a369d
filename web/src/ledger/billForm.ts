import { z } from 'zod'
import type { View } from '../api/client'

const amount = z
  .string()
  .trim()
  .regex(/^(\d{1,9}([.,]\d{1,2})?)?$/, 'An amount such as 59.90.')

/** billSchema is the bill as its form holds it: amounts are text, which the bench reads. */
export const billSchema = z.object({
  items: z.array(z.object({ what: z.string().trim().max(200), amount }).refine((i) => (i.what === '') === (i.amount === ''), { path: ['what'], message: 'A name and an amount.' })),
  hour_worth: amount,
  new_computer: amount,
  support_ends: z.string(),
})
export type BillForm = z.infer<typeof billSchema>

/** billOf is what is kept of a job's bill, with the usual items where nothing is. */
export function billOf(view: View): BillForm {
  const b = view.job.job.bill
  const items = b?.items?.map((i) => ({ what: i.what, amount: i.price.amount }))
  return { items: items?.length ? items : [{ what: '', amount: '' }], hour_worth: b?.hour_worth?.amount ?? '', new_computer: b?.new_computer?.price.amount ?? '', support_ends: b?.support_ends ?? '' }
}
