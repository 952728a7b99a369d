import { useEffect, useState } from 'react'

/** quiet is after how long a figure that is not heard of any more is told as old, ms. */
export const quiet = 5000

/** silentFor is how long nothing was heard, s, or 0 while that is not worth saying. */
export const silentFor = (heard: number, now: number) => (now - heard > quiet ? Math.floor((now - heard) / 1000) : 0)

/** useSilence tells for how many seconds a value has not changed, 0 for the first five. */
export function useSilence(value: unknown): number {
  const [heard, setHeard] = useState({ value, at: Date.now() })
  const [now, setNow] = useState(Date.now)
  if (heard.value !== value) setHeard({ value, at: Date.now() })
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000)
    return () => clearInterval(timer)
  }, [])
  return silentFor(heard.at, now)
}
