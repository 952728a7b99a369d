import type { Schemas, View } from '../api/client'
import { day } from '../ui/format'

/** Promise is what was promised to be looked at later. */
export type Promised = Schemas['Promise']

/** terms are the days that are promised most. */
export const terms = [
  { value: 'week', label: 'in a week' },
  { value: 'month', label: 'in a month' },
  { value: 'half', label: 'in six months' },
] as const
export type Term = (typeof terms)[number]['value']

const two = (n: number) => String(n).padStart(2, '0')

/** iso is a day as 2006-01-02, by this device's calendar. */
export const iso = (d: Date) => `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}`

/** dueIn is the day that lies a term ahead; a month that has no such day ends on its last. */
export function dueIn(term: Term, from: Date): string {
  if (term === 'week') return iso(new Date(from.getFullYear(), from.getMonth(), from.getDate() + 7))
  const months = term === 'month' ? 1 : 6
  const last = new Date(from.getFullYear(), from.getMonth() + months + 1, 0).getDate()
  return iso(new Date(from.getFullYear(), from.getMonth() + months, Math.min(from.getDate(), last)))
}

/** promiseWords say what was promised. */
export function promiseWords(p: Promised, testName: string): string {
  const what = p.what === 'fill' ? 'How full the drive is' : p.what === 'test' ? `${testName || 'A test'} again` : (p.words ?? '')
  return p.what !== 'words' && p.words ? `${what}: ${p.words}` : what
}

/** nameOf is the name of a promise's test in its job. */
export const nameOf = (view: View, p: Promised) => view.job.tests.find((t) => t.id === p.test)?.name ?? ''

/** dueDay is a promise's day in words: the same day wherever the shop is. */
export const dueDay = (due: string) => day(`${due}T00:00`)

/** overdue reports whether a promise's day has passed, and soon whether it comes within a fortnight. */
export const overdue = (p: Promised, today: string) => p.due < today
export const soon = (p: Promised, today: Date) => p.due <= iso(new Date(today.getFullYear(), today.getMonth(), today.getDate() + 14))
