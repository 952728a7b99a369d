import type { Schemas, Test } from '../api/client'
import { bytes, figure } from '../ui/format'

type Cover = Pick<Schemas['Cover'], 'run_s' | 'run_writes'>

/** plain says in plain words what a test does that the program runs by itself; nothing of others. */
export function plain(t: Test): string {
  if (t.file_work) return filesInWords(t.file_work)
  if (t.kind === 'control' && t.what === 'processor') return 'Hashes and compresses the same data each time, on one core and on all. It doesn’t use the drive.'
  const w = t.params
  if (!w) return ''
  if (w.streams) {
    const played = w.streams.plays ? ` and plays back ${w.streams.plays} of what was recorded before` : ''
    return `Writes ${w.streams.count} recordings side by side${played}; together they need ${figure(needOf(w.streams), 'MB/s')}.`
  }
  const mix = w.op === 'mix' ? `Reads (${Math.round((w.read_share ?? 0) * 100)} %) and writes` : undefined
  const what = mix ?? { read: 'Reads', write: 'Writes' }[w.op] ?? w.op
  if (w.sweep?.length) return `${what} one after another in blocks of ${bytes(Math.min(...w.sweep))} up to ${bytes(Math.max(...w.sweep))}.`
  if (w.fresh) return `${what} up to ${bytes(w.span_bytes)} in one go, to see when writing slows down.`
  const sizes = w.blocks?.length ? `blocks of ${w.blocks.map((b) => bytes(b.bytes)).join(', ')}` : `${bytes(w.block_bytes)} blocks`
  const where = { sequential: 'one after another', hot: 'at random places, most of them in one part' }[w.pattern] ?? 'at random places'
  const depth = w.depth === 1 ? 'one at a time' : `${w.depth} at once`
  const of = w.existing ? ' From existing files; nothing is written.' : ''
  return `${what} ${sizes} ${where}, ${depth}.${of}`
}

function filesInWords({ op, set }: NonNullable<Test['file_work']>): string {
  if (op === 'read' || !set) return 'Reads every file of an existing folder, bypassing the cache. Nothing is written.'
  const what = set.files === 1 ? `a file of ${bytes(set.median_bytes)}` : `${set.files.toLocaleString('en')} files, half of them below ${bytes(set.median_bytes)}`
  return op === 'copy' ? `Copies ${what}, read from the drive and written back to it.` : `Makes ${what}, then copies them.`
}

/** needOf is what streams need together, MB/s. */
export function needOf(s: Schemas['Streams']): number {
  return (s.count + (s.plays ?? 0)) * (s.mb_s || ((s.width ?? 0) * (s.height ?? 0) * (s.frames_s ?? 0) * (s.bits ?? 0)) / 8 / 1e6)
}

/** defaultSeconds is how long a run takes where its test says nothing. */
export const defaultSeconds = 8

/** roundOf says how long a round takes, how large its test file is and how much it writes at most. */
export function roundOf(parts: { test: Test; cover: Cover; runs: number }[]): { seconds: number; span: number; writes: number } {
  let seconds = 0
  let span = 0
  let writes = 0
  for (const { test, cover, runs } of parts) {
    if (runs === 0) continue
    seconds += runs * cover.run_s
    writes += runs * cover.run_writes
    const w = test.params
    if (w && !w.fresh && !w.existing) span = Math.max(span, w.span_bytes)
  }
  return { seconds, span, writes: writes + span }
}
