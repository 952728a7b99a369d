import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useState } from 'react'
import type { Clock } from '../api/clock'
import { client, data, type Refused, type Schemas, type Timer } from '../api/client'
import { takeAnswer } from '../api/queries'

/** Press is what was done to the timer on this device, with the time at which it was done. */
export type Press = Schemas['Press']

/** Waiting is a press on its way. One that was made before the clocks were lined up has this device's time of day, which own says. */
export type Waiting = Press & { own?: true }

/** onBench is a press with its time on the bench's clock, undefined where that is not known yet. */
export function onBench({ own, ...press }: Waiting, clock: Clock): Press | undefined {
  if (!own) return press
  const { at, bound } = clock.ofDay(press.at_ms)
  return Number.isFinite(bound) ? { ...press, at_ms: at, u_ms: bound } : undefined
}

/** asFarAsKnown is a press for looking at: where the bench's clock is not known yet, by this device's. */
export const asFarAsKnown = (p: Waiting, clock: Clock): Press => onBench(p, clock) ?? { ...p, at_ms: clock.ofDay(p.at_ms).at }

/**
 * An outbox keeps presses until the bench has them. They lie in the device's storage, so that neither a lost network nor a
 * reloaded page nor a phone that was locked loses one.
 */
const place = (job: string) => `presses ${job}`

export function waitingPresses(job: string): Waiting[] {
  try {
    return JSON.parse(localStorage.getItem(place(job)) ?? '[]') as Waiting[]
  } catch {
    return []
  }
}

function store(job: string, list: Waiting[]) {
  if (list.length === 0) localStorage.removeItem(place(job))
  else localStorage.setItem(place(job), JSON.stringify(list))
}

const retry = 1000

/** useOutbox sends presses in their order, again and again until they arrive; one that the bench refuses is told and dropped. */
export function useOutbox(job: string, clock: Clock) {
  const cache = useQueryClient()
  const [waiting, setWaiting] = useState(() => waitingPresses(job))
  const [error, setError] = useState<Refused>()
  const change = useCallback(
    (list: Waiting[]) => {
      store(job, list)
      setWaiting(list)
    },
    [job],
  )
  const first = waiting[0]
  useEffect(() => {
    if (!first) return
    let gone = false
    let timer: ReturnType<typeof setTimeout>
    const done = (answer: Timer | null, refused?: Refused) => {
      // What was pressed meanwhile stays behind it.
      change(waitingPresses(job).filter((p) => p.key !== first.key))
      setError(refused)
      void takeAnswer(cache, job, answer)
    }
    const later = () => (timer = setTimeout(() => void send(), retry))
    const send = async () => {
      if (!onBench(first, clock)) await clock.lineUp(3)
      const body = onBench(first, clock)
      if (gone) return
      if (!body) return later()
      await data(client.POST('/api/jobs/{job}/timer/presses', { params: { path: { job } }, body })).then(
        (t) => !gone && done(t),
        (e: Refused) => {
          if (gone) return
          if (e.status === 0 || e.status >= 500) later()
          else done(null, e)
        },
      )
    }
    void send()
    return () => {
      gone = true
      clearTimeout(timer)
    }
  }, [first, job, clock, cache, change])
  const press = useCallback(
    (p: Waiting) => {
      setError(undefined)
      change([...waitingPresses(job), p])
    },
    [job, change],
  )
  return { waiting, press, error }
}
