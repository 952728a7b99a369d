import { useWindowVirtualizer } from '@tanstack/react-virtual'
import { useLayoutEffect, useState } from 'react'

/** Lists of up to this many entries are drawn whole: they can be searched and printed as they stand. */
const whole = 24

/**
 * useWindowed reports which entries of a long list are near what is in sight of the page, with the height of those before and after
 * them, px. estimate is how high one is about; entries put measure and data-index on their element. reveal is an entry to bring
 * into sight.
 */
export function useWindowed<L extends HTMLElement>(count: number, estimate: number, keyOf: (i: number) => string, reveal = -1) {
  const [list, setList] = useState<L | null>(null)
  const [top, setTop] = useState(0)
  const long = count > whole
  // What is above the list changes its place without drawing the list again.
  useLayoutEffect(() => {
    if (!long || !list) return
    const look = () => setTop(Math.round(list.getBoundingClientRect().top + scrollY))
    look()
    const page = new ResizeObserver(look)
    page.observe(document.body)
    return () => page.disconnect()
  }, [long, list])
  const v = useWindowVirtualizer({ count, enabled: long, estimateSize: () => estimate, getItemKey: keyOf, overscan: 10, scrollMargin: top })
  useLayoutEffect(() => {
    if (long && reveal >= 0) v.scrollToIndex(reveal, { align: 'auto' })
    // eslint-disable-next-line react-hooks/exhaustive-deps -- brought into sight once, not each time the list is drawn
  }, [long, reveal])
  const near = v.getVirtualItems()
  return {
    list: setList,
    entries: long ? near.map((e) => e.index) : Array.from({ length: count }, (_, i) => i),
    before: long ? Math.max(0, (near[0]?.start ?? top) - top) : 0,
    after: long ? Math.max(0, v.getTotalSize() - ((near.at(-1)?.end ?? top) - top)) : 0,
    measure: long ? v.measureElement : undefined,
  }
}
