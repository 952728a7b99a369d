import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import type { Clock } from '../api/clock'
import { client, data, keyed, type Refused, type Timer } from '../api/client'
import { newKey } from '../api/key'
import { takeAnswer } from './queries'
import { store, waitingPresses, type Press, type Waiting } from './waiting'

export type { Waiting } from './waiting'

/** onBench is a press with its time on the bench's clock, undefined where that is not known yet. */
export function onBench(p: Waiting, clock: Clock): Pick<Press, 'at_ms' | 'u_ms'> | undefined {
  if (!p.own) return { at_ms: p.at_ms, u_ms: p.u_ms }
  const { at, bound } = clock.ofDay(p.at_ms)
  return Number.isFinite(bound) ? { at_ms: at, u_ms: bound } : undefined
}

/** asFarAsKnown is a press for looking at: where the bench's clock is not known yet, by this device's. */
export const asFarAsKnown = (p: Waiting, clock: Clock): Waiting => ({ ...p, ...(onBench(p, clock) ?? { at_ms: clock.ofDay(p.at_ms).at }) })

/** takeBack takes the last thing of a timer back that is still on this device, or has it undone once it has arrived; undefined: there is none. */
export function takeBack(list: Waiting[], timer: string, key: string): Waiting[] | undefined {
  const at = list.findLastIndex((p) => p.timer === timer)
  const last = list[at]
  if (!last) return undefined
  // Only this device has seen it: it is simply dropped.
  if (!last.tried && last.kind !== 'undo') return list.toSpliced(at, 1)
  return [...list, { timer, kind: 'undo', key, at_ms: last.at_ms, u_ms: 0 }]
}

/** named gives a timer that is armed now its name, in everything that was done to it before it had one. */
export const named = (list: Waiting[], before: string, now: string) => list.map((p) => (p.timer === before ? { ...p, timer: now, arm: undefined } : p))

/** waits reports whether to retry: the connection is lost, the bench failed, somebody has to sign in first, or there were too many requests. */
export const waits = (e: Refused) => e.unanswered || e.status === 401 || e.status === 429

const retry = 1000

/** send sends one thing and returns the timer as it is then, with the name under which it is known now. */
async function send(job: string, p: Waiting, at: Pick<Press, 'at_ms' | 'u_ms'>): Promise<{ timer: Timer; name: string }> {
  const path = { params: { path: { job } } }
  let name = p.timer
  if (p.arm) name = (await data(keyed(`arm ${p.key}`).PUT('/api/jobs/{job}/timer', { ...path, body: p.arm }))).id
  // A press is told by its own key, however its time comes to be known better; taking back is not.
  const timer =
    p.kind === 'undo'
      ? await data(keyed(p.key).DELETE('/api/jobs/{job}/timer/presses', { params: { path: { job }, query: { timer: name, key: p.key } } }))
      : await data(client.POST('/api/jobs/{job}/timer/presses', { ...path, body: { key: p.key, kind: p.kind, timer: name, ...at } }))
  return { timer, name }
}

/** useOutbox sends what was done in its order, again and again until it arrives; what the bench refuses is told and dropped. */
export function useOutbox(job: string, clock: Clock) {
  const cache = useQueryClient()
  const [waiting, setWaiting] = useState(() => waitingPresses(job))
  const [error, setError] = useState<Refused>()
  const once = useRef<(timer: string) => void>(undefined)
  const [held, setHeld] = useState(false)
  const putOff = useCallback((run?: (timer: string) => void) => {
    once.current = run
    setHeld(run !== undefined)
  }, [])
  const change = useCallback(
    (by: (list: Waiting[]) => Waiting[]) => {
      const list = by(waitingPresses(job))
      store(job, list)
      setWaiting(list)
    },
    [job],
  )
  const first = waiting[0]?.key
  useEffect(() => {
    if (!first) return
    let gone = false
    let timer: ReturnType<typeof setTimeout>
    const done = (answer: Timer | null, refused?: Refused, names?: [string, string]) => {
      // The answer first: what was done is then in sight twice, and counts once, but never not at all.
      void takeAnswer(cache, job, answer)
      // What was pressed in the meantime stays behind it.
      change((list) => {
        const rest = list.filter((p) => p.key !== first)
        return names ? named(rest, ...names) : rest
      })
      if (refused) setError(refused) // it stays said until something new is pressed, whatever arrives after it
      const run = once.current
      if (!run || (!refused && waitingPresses(job).length > 0)) return
      putOff(undefined)
      if (!refused && answer) run(answer.id)
    }
    const later = () => (timer = setTimeout(() => void attempt(), retry))
    const attempt = async () => {
      const p = waitingPresses(job).find((q) => q.key === first)
      if (!p || gone) return
      if (!onBench(p, clock)) await clock.lineUp(3)
      const at = onBench(p, clock)
      if (gone) return
      if (!at) return later()
      change((list) => list.map((q) => (q.key === first ? { ...q, tried: true } : q)))
      await send(job, p, at).then(
        (sent) => !gone && done(sent.timer, undefined, [p.timer, sent.name]),
        (e: Refused) => {
          if (gone) return
          if (waits(e)) later()
          else done(null, e)
        },
      )
    }
    void attempt()
    return () => {
      gone = true
      clearTimeout(timer)
    }
  }, [first, job, clock, cache, change, putOff])
  const press = useCallback(
    (p: Waiting) => {
      setError(undefined)
      change((list) => [...list, p])
    },
    [change],
  )
  /** undo takes the last thing back: this device's own first, else the bench's. */
  const undo = useCallback(
    (timer: string) => {
      setError(undefined)
      putOff(undefined)
      change((list) => takeBack(list, timer, newKey()) ?? [...list, { timer, kind: 'undo', key: newKey(), at_ms: 0, u_ms: 0 }])
    },
    [change, putOff],
  )
  /**
   * after does something to a timer once all that was done to it has arrived; taking a press back, or one that is refused, cancels it,
   * for then the timer is not what was checked.
   */
  const after = useCallback((timer: string, run: (timer: string) => void) => (waitingPresses(job).length > 0 ? putOff(run) : run(timer)), [job, putOff])
  return { waiting, press, undo, after, held, error }
}
