import { z } from 'zod'
import type { Schemas, View } from '../api/client'

/** schema is what is chosen for a report, as its form holds it. */
export const schema = z.object({
  note: z.string().max(1000, 'At most 1,000 characters.'),
  tone: z.enum(['explained', 'short']),
  length: z.enum(['one', 'two', 'full']),
  photos: z.array(z.object({ id: z.string(), of: z.string(), shown: z.boolean() })),
  lines: z.array(z.object({ test: z.string(), name: z.string(), shown: z.boolean(), headline: z.boolean() })),
})
export type Choices = z.infer<typeof schema>

/** linesOf are the tests that can be on a job's report, in the order that was chosen, with what is shown. */
export function linesOf(view: View): Choices['lines'] {
  const chosen = view.job.job.report
  const first = chosen?.first ?? []
  const place = (id: string) => (first.includes(id) ? first.indexOf(id) : first.length)
  return view.job.tests
    .filter((t) => t.kind !== 'control' && view.job.runs.some((r) => r.test === t.id))
    .sort((a, b) => place(a.id) - place(b.id))
    .map((t) => ({ test: t.id, name: t.name, headline: t.id === view.job.plan.headline, shown: !chosen?.left_out?.includes(t.id) }))
}

/** photosOf are the photos of a job's steps, with what is shown. */
export const photosOf = (view: View): Choices['photos'] =>
  (view.job.plan.steps ?? []).flatMap((s) => (s.photos ?? []).map((p) => ({ id: p.id, of: s.text, shown: Boolean(view.job.job.report?.photos?.includes(p.id)) })))

/** chosenOf is what a form says, as the bench takes it. */
export const chosenOf = (f: Choices): Schemas['DraftIn'] => ({
  note: f.note.trim(),
  short: f.tone === 'short',
  length: f.length,
  photos: f.photos.filter((p) => p.shown).map((p) => p.id),
  first: f.lines.map((l) => l.test),
  left_out: f.lines.filter((l) => !l.shown && !l.headline).map((l) => l.test),
})
