import { useEffect, useState } from 'react'
import type { Timer } from '../api/client'
import { pageNow, type Clock } from '../api/clock'
import { clock } from '../ui/format'
import { counted, lapsOf, type Lap } from './laps'

/** Digits are the figure that runs: they alone are drawn again with the screen. */
export function Digits({ timer, bench }: { timer: Timer; bench: Clock }) {
  return clock(counted(useLaps(timer, bench)))
}

/** useLaps are the timer's phases as they are now, ticking with the screen while it runs. */
export function useLaps(timer: Timer, bench: Clock): Lap[] {
  const page = useNow(timer.state === 'running')
  return lapsOf(timer, page + bench.at(page).offset)
}

/** useNow is the page's clock in ms. */
function useNow(running: boolean): number {
  const [now, setNow] = useState(pageNow)
  useEffect(() => {
    if (!running) return
    let frame = requestAnimationFrame(function tick() {
      setNow(pageNow())
      frame = requestAnimationFrame(tick)
    })
    return () => cancelAnimationFrame(frame)
  }, [running])
  return now
}
