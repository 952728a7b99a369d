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
  const value = phases.reduce((sum, p, i) => sum + (p.counts === false ? 0 : marks[i + 1]!.at - marks[i]!.at), 0)
  return { value, u: Math.hypot(marks[0]!.frame, marks.at(-1)!.frame) / Math.sqrt(12) }
}
