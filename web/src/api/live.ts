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

/** retry is how long to wait after a refusal, ms. */
const retry = 2000

/**
 * useLive listens to the bench while the page is in sight. One that is out of sight gives its line back: a browser has but a handful
 * for all its tabs.
 */
export function useLive() {
  const cache = useQueryClient()
  useEffect(() => {
    const hear = (e: MessageEvent<string>) => apply(cache, JSON.parse(e.data) as Happened)
    let source: EventSource | undefined
    let again: ReturnType<typeof setTimeout>
    let lost = false
    const listen = () => {
      const line = (source = new EventSource('/api/events'))
      for (const type of ['job', 'measuring', 'timer']) line.addEventListener(type, hear)
      line.onopen = () => {
        // What happened while the line was down is not repeated: ask again.
        if (lost) void cache.invalidateQueries()
        lost = false
      }
      line.onerror = () => {
        lost = true
        if (line.readyState !== EventSource.CLOSED) return // it tries again by itself
        // The bench refused: perhaps the session has ended, which the page then says.
        void cache.invalidateQueries({ queryKey: keys.session })
        again = setTimeout(listen, retry)
      }
    }
    const hush = () => {
      clearTimeout(again)
      source?.close()
      source = undefined
      lost = true
    }
    const look = () => {
      if (document.visibilityState === 'hidden') hush()
      else if (!source) listen()
    }
    look()
    document.addEventListener('visibilitychange', look)
    return () => {
      document.removeEventListener('visibilitychange', look)
      hush()
    }
  }, [cache])
}
