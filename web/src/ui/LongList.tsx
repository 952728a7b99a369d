import type { ReactNode } from 'react'
import { useWindowed } from './windowed'

/** LongList is a list of any length, of which only what is near the screen is drawn. */
export function LongList<T>(props: { items: T[]; keyOf: (item: T) => string; height: number; reveal?: number; className?: string; itemClass?: string; children: (item: T) => ReactNode }) {
  const { items, keyOf, height, reveal, className, itemClass, children } = props
  const { list, entries, before, after, measure } = useWindowed<HTMLUListElement>(items.length, height, (i) => keyOf(items[i]!), reveal)
  return (
    <ul
      ref={list}
      className={className}
      style={{ paddingTop: before || undefined, paddingBottom: after || undefined }}
    >
      {entries.map((i) => (
        <li key={keyOf(items[i]!)} ref={measure} data-index={i} aria-setsize={items.length} aria-posinset={i + 1} className={itemClass}>
          {children(items[i]!)}
        </li>
      ))}
    </ul>
  )
}
