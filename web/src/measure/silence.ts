import { useEffect, useState } from 'react'

/** quiet is for how long a figure may stay as it is before it is told as old, s. */
const quiet = 5

/** useSilence tells for how many seconds a value has not changed, 0 for the first five. */
export function useSilence(value: unknown): number {
  const [heard, setHeard] = useState({ value, seconds: 0 })
  if (heard.value !== value) setHeard({ value, seconds: 0 })
  useEffect(() => {
    const timer = setInterval(() => setHeard((h) => ({ ...h, seconds: h.seconds + 1 })), 1000)
    return () => clearInterval(timer)
  }, [])
  return heard.value === value && heard.seconds > quiet ? heard.seconds : 0
}
