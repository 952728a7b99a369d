import type { Test } from '../api/client'
import { bytes } from '../ui/format'

/** plain says in plain words what a drive test does. */
export function plain(t: Test): string {
  const w = t.params
  if (!w) return ''
  const mix = w.op === 'mix' ? `Reads (${Math.round((w.read_share ?? 0) * 100)} %) and writes` : undefined
  const what = mix ?? { read: 'Reads', write: 'Writes' }[w.op] ?? w.op
  const sizes = w.blocks?.length ? `blocks of ${w.blocks.map((b) => bytes(b.bytes)).join(', ')}` : `${bytes(w.block_bytes)} blocks`
  const where = { sequential: 'one after another', hot: 'at random places, most of them in one part' }[w.pattern] ?? 'at random places'
  const depth = w.depth === 1 ? 'one at a time' : `${w.depth} at once`
  return `${what} ${sizes} ${where}, ${depth}.`
}

/** defaultSeconds is how long a run takes where its test says nothing. */
export const defaultSeconds = 8

/** roundOf says how long a round takes, how large its test file is and how much it writes at most. */
export function roundOf(parts: { test: Test; runs: number }[]): { seconds: number; span: number; writes: number } {
  let seconds = 0
  let span = 0
  let writes = 0
  for (const { test, runs } of parts) {
    const w = test.params
    if (!w || runs === 0) continue
    seconds += runs * (w.max_seconds || defaultSeconds)
    span = Math.max(span, w.span_bytes)
    if (w.op !== 'read') writes += runs * (w.max_bytes || w.span_bytes)
  }
  return { seconds, span, writes: writes + span }
}
