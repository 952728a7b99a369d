import type { Schemas } from '../api/client'
import { capacity } from '../ui/format'

type Fit = Pick<Schemas['Fit'], 'partitions'>
type Layout = Pick<Schemas['Layout'], 'partitions' | 'free_after_bytes'>

/** worth is how much room is worth a word, bytes. */
const worth = 1e9

/** meaning says in a sentence what a layout means for this customer: which partition gets how much, and what stays unallocated. */
export function meaning(as: string, fit: Fit, l: Layout): string {
  const was = new Map(fit.partitions.map((p) => [p.number, p.size_bytes]))
  const grown = l.partitions.map((p) => ({ role: p.role || `partition ${p.of}`, by: p.size_bytes - (was.get(p.of) ?? p.size_bytes) })).filter((g) => g.by >= worth)
  const free = l.free_after_bytes >= worth ? `${capacity(l.free_after_bytes)} stay unallocated` : ''
  const more = grown.map((g) => `${g.role === 'system' ? 'the system' : `the ${g.role} partition`} gets ${capacity(g.by)} more`)
  const said = [...more, free].filter(Boolean).join(', ')
  if (said === '') return 'All partitions keep their size.'
  const start = said.charAt(0).toUpperCase() + said.slice(1)
  if (as === 'same-size') return `${start}. You can give that room to any partition later.`
  if (as === 'system' && grown.length > 0) return `${start}: room for programs and for files on the same volume.`
  return `${start}.`
}
