import type { Schemas } from '../api/client'

type Layout = Schemas['Layout']

/** Sizes are what partitions are to have, bytes, by their numbers on the old drive. */
export type Sizes = Record<number, number>

/** step is what an arrow key changes; with the page keys it is ten times as much. */
export const step = 1e9

/** asQuery writes sizes as the bench reads them. */
export const asQuery = (sizes: Sizes) =>
  Object.entries(sizes)
    .map(([n, b]) => `${n}:${Math.round(b)}`)
    .join(',')

/** Handle is the end of a partition that can be dragged, with how small and how large it can become. */
export type Handle = { number: number; role: string; start: number; size: number; least: number; most: number }

/** handlesOf are those of a layout: of what may change its size, between what it holds and what is free behind it. Each stands where it was moved to last, before the layout for that has come. */
export function handlesOf(l: Layout, sizes: Sizes = {}): Handle[] {
  return l.partitions
    .filter((p) => (p.role === 'system' || p.role === 'data') && p.used_bytes !== null && p.used_bytes !== undefined)
    .map((p) => ({ number: p.of, role: p.role, start: p.start_bytes, size: p.size_bytes, least: p.used_bytes ?? 0, most: p.size_bytes + l.free_after_bytes }))
    .map((h) => ({ ...h, size: Math.min(h.most, Math.max(h.least, sizes[h.number] ?? h.size)) }))
}

/** sizesOf are the sizes of a layout, to begin dragging from. */
export const sizesOf = (l: Layout): Sizes => Object.fromEntries(handlesOf(l).map((h) => [h.number, h.size]))

/** moved is a handle's size after a key, undefined where the key means nothing to it. */
export function moved(h: Handle, key: string): number | undefined {
  const to = { ArrowLeft: h.size - step, ArrowDown: h.size - step, ArrowRight: h.size + step, ArrowUp: h.size + step, PageDown: h.size - 10 * step, PageUp: h.size + 10 * step, Home: h.least, End: h.most }[key]
  return to === undefined ? undefined : Math.min(h.most, Math.max(h.least, to))
}
