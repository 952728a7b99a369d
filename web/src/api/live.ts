import type { QueryClient } from '@tanstack/react-query'
import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import type { Measuring, Timer } from './client'
import { keys } from './queries'

type Happened = { type: 'job' | 'measuring' | 'timer'; job: string; data?: unknown }

/**
 * put replaces what the cache holds. An answer that is still on its way is from before, or another event follows it: it is
 * not waited for, so that nothing older comes after what is put.
 */
function put<T>(cache: QueryClient, key: readonly string[], value: T) {
  void cache.cancelQueries({ queryKey: key, exact: true })
  cache.setQueryData<T>(key, value)
}

/** apply brings what happened on the bench into the cache, which is the page's only truth. */
export function apply(cache: QueryClient, e: Happened) {
  switch (e.type) {
    case 'job':
      void cache.invalidateQueries({ queryKey: keys.jobs })
      void cache.invalidateQueries({ queryKey: keys.job(e.job) })
      void cache.invalidateQueries({ queryKey: keys.ledger(e.job) })
      void cache.invalidateQueries({ queryKey: keys.report(e.job) })
      void cache.invalidateQueries({ queryKey: keys.closer(e.job) })
      break
    case 'measuring':
      put(cache, keys.measuring(e.job), e.data as Measuring)
      break
    case 'timer':
      put(cache, keys.timer(e.job), (e.data ?? null) as Timer | null)
      break
  }
}

/** useLive listens to the bench for as long as the page is open. */
export function useLive() {
  const cache = useQueryClient()
  useEffect(() => {
    const source = new EventSource('/api/events')
    const hear = (e: MessageEvent<string>) => apply(cache, JSON.parse(e.data) as Happened)
    for (const type of ['job', 'measuring', 'timer']) source.addEventListener(type, hear)
    // What happened while the line was down is not repeated: ask again.
    let lost = false
    source.onerror = () => (lost = true)
    source.onopen = () => {
      if (lost) void cache.invalidateQueries()
      lost = false
    }
    return () => source.close()
  }, [cache])
}
