import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useState } from 'react'
import { client, data, type Refused, type Schemas, type Timer } from '../api/client'
import { takeAnswer } from '../api/queries'

/** Press is what was done to the timer on this device, with the time at which it was done. */
export type Press = Schemas['Press']

/**
 * An outbox keeps presses until the bench has them. They lie in the device's storage, so that neither a lost network nor a
 * reloaded page nor a phone that was locked loses one.
 */
const place = (job: string) => `presses ${job}`

export function waitingPresses(job: string): Press[] {
  try {
    return JSON.parse(localStorage.getItem(place(job)) ?? '[]') as Press[]
  } catch {
    return []
  }
}

function store(job: string, list: Press[]) {
  if (list.length === 0) localStorage.removeItem(place(job))
  else localStorage.setItem(place(job), JSON.stringify(list))
}

const retry = 1000

/** useOutbox sends presses in their order, again and again until they arrive; one that the bench refuses is told and dropped. */
export function useOutbox(job: string) {
  const cache = useQueryClient()
  const [waiting, setWaiting] = useState(() => waitingPresses(job))
  const [error, setError] = useState<Refused>()
  const change = useCallback(
    (list: Press[]) => {
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
    const send = () =>
      data(client.POST('/api/jobs/{job}/timer/presses', { params: { path: { job } }, body: first })).then(
        (t) => !gone && done(t),
        (e: Refused) => {
          if (gone) return
          if (e.status === 0 || e.status >= 500) timer = setTimeout(() => void send(), retry)
          else done(null, e)
        },
      )
    void send()
    return () => {
      gone = true
      clearTimeout(timer)
    }
  }, [first, job, cache, change])
  const press = useCallback(
    (p: Press) => {
      setError(undefined)
      change([...waitingPresses(job), p])
    },
    [job, change],
  )
  return { waiting, press, error }
}
