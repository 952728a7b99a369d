import { useCallback, useEffect, useState } from 'react'
import { signal } from './signals'

/** useCountdown counts 3, 2, 1 and then does something at zero. */
export function useCountdown(atZero: () => void) {
  const [left, setLeft] = useState<number>()
  useEffect(() => {
    if (left === undefined) return
    const t = setTimeout(() => {
      if (left > 1) {
        signal('tick')
        setLeft(left - 1)
      } else {
        atZero()
        setLeft(undefined)
      }
    }, 1000)
    return () => clearTimeout(t)
  }, [left, atZero])
  return {
    left,
    begin: useCallback(() => {
      signal('tick')
      setLeft(3)
    }, []),
  }
}
