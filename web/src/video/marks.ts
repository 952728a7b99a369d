import type { Test } from '../api/client'

/** Mark is a frame: its time, how long the frame before it was, s, and the picture that was kept of it. */
export type Mark = { at: number; frame: number; still: string }

/** marksOf names the marks that a test takes: the start, the end of each phase. */
export function marksOf(test: Test): string[] {
  const phases = test.phases ?? []
  if (phases.length === 0) return ['Start', 'End']
  return ['Start', ...phases.map((p) => `End of “${p.name}”`)]
}

/** valueOf is what the marks come to, as the bench will work it out: what counts, and how unsure the frames leave it. */
export function valueOf(test: Test, marks: Mark[]): { value: number; u: number } {
  const phases = test.phases?.length ? test.phases : [{ id: '', name: '' }]
  const counts = (i: number) => i >= 0 && i < phases.length && phases[i]!.counts !== false
  const value = phases.reduce((sum, _, i) => sum + (counts(i) ? marks[i + 1]!.at - marks[i]!.at : 0), 0)
  // Between two phases that count, a mark moves time from one to the other: it doesn't enter their sum.
  const entering = marks.filter((_, i) => counts(i - 1) !== counts(i))
  return { value, u: Math.hypot(...entering.map((m) => m.frame)) / Math.sqrt(12) }
}
