import type { QueryClient } from '@tanstack/react-query'
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useSyncExternalStore } from 'react'
import type { Measuring, Timer } from './client'
import { keys, stale } from './cache'

type Happened = { type: 'job' | 'measuring' | 'timer' | 'clips' | 'probes' | 'offers'; job: string; data?: unknown }

/**
 * put replaces what the cache holds. An answer that is still on its way is from before, or another event follows it: it is
 * not waited for, so that nothing older comes after what is put.
 */
function put<T>(cache: QueryClient, key: readonly string[], value: T) {
  void cache.cancelQueries({ queryKey: key, exact: true })
  cache.setQueryData<T>(key, value)
}

/** apply puts an event into the cache, which is the page's only state. */
export function apply(cache: QueryClient, e: Happened) {
  switch (e.type) {
    case 'measuring':
      put(cache, keys.measuring(e.job), e.data as Measuring)
      break
    case 'job':
    case 'probes':
    case 'clips':
    case 'offers':
      stale(cache, e.type, e.job)
      break
    case 'timer':
      put(cache, keys.timer(e.job), (e.data ?? null) as Timer | null)
      break
  }
}

/** line is whether the bench is connected: null before the first time, false while it isn't. */
const line = {
  now: null as boolean | null,
  watchers: new Set<() => void>(),
  set(up: boolean) {
    if (this.now === up) return
    this.now = up
    this.watchers.forEach((w) => w())
  },
}

/** useLine reports whether the bench is connected. */
export const useLine = () =>
  useSyncExternalStore(
    (w) => {
      line.watchers.add(w)
      return () => line.watchers.delete(w)
    },
    () => line.now,
  )

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
    const listen = () => {
      const stream = (source = new EventSource('/api/events'))
      for (const type of ['job', 'measuring', 'timer', 'clips', 'probes', 'offers']) stream.addEventListener(type, hear)
      stream.onopen = () => {
        // Earlier events are not repeated: fetch again, the first time as well.
        void cache.invalidateQueries()
        line.set(true)
      }
      stream.onerror = () => {
        line.set(false)
        if (stream.readyState !== EventSource.CLOSED) return // it tries again by itself
        // The bench refused: perhaps the session has expired, which the page then says.
        void cache.invalidateQueries({ queryKey: keys.session })
        again = setTimeout(listen, retry)
      }
    }
    const hush = () => {
      clearTimeout(again)
      source?.close()
      source = undefined
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
