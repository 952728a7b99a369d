import { zodResolver } from '@hookform/resolvers/zod'
import { useCallback, useEffect, useRef, useState } from 'react'
import { useForm } from 'react-hook-form'
import { useNavigate } from 'react-router'
import { pageNow, useClock } from '../api/clock'
import { newKey } from '../api/key'
import type { Setup, Test, Timer, View } from '../api/client'
import { sidePath, timerPath } from '../job/paths'
import { byHand, coverOf, missingRuns } from '../job/view'
import { useGoOn } from '../ui/goOn'
import { technician } from '../ui/technician'
import { holding, withWaiting } from './laps'
import { asFarAsKnown, useOutbox } from './outbox'
import { useKeepTimer } from './queries'
import { signal, useWakeLock } from './signals'
import { useCountdown } from './useCountdown'
import { before, wasSchema, type Was } from './WhatItWas'

/** followerOf is the test that follows in the same start and still wants a run, if there is one. */
function followerOf(view: View, test: Test, setup: string): Test | undefined {
  return view.job.tests.find((t) => t.follows === test.id && !t.retired && missingRuns(view, t, setup) > 0 && byHand(view, t))
}

/** Timing is a timer as this device knows it, and all that can be done with it. */
export type Timing = ReturnType<typeof useTiming>

/**
 * useTiming takes presses for a timer, sends them to the bench and keeps the run. The timer is ready, runs, is stopped while the
 * user's part is left out, or is stopped; presses that the bench does not have yet are counted in.
 */
export function useTiming(view: View, setup: Setup, test: Test, held: Timer) {
  const go = useNavigate()
  const goOn = useGoOn()
  const clock = useClock()
  const outbox = useOutbox(view.id, clock)
  // A timer that is not armed yet goes by a name of this device until it is.
  const [own] = useState(() => `new ${newKey()}`)
  const id = held.id || (outbox.waiting.find((p) => p.arm?.test === test.id && p.arm.sitting === held.sitting)?.timer ?? own)
  const timer = withWaiting(
    { ...held, id },
    outbox.waiting.map((p) => asFarAsKnown(p, clock)),
  )
  const toJob = goOn(() => sidePath(view.id, setup))
  const follower = followerOf(view, test, setup.id)
  const keep = useKeepTimer(view.id, (how) => {
    if (how.again || how.series || held.series > 0) return
    if (follower && how.next) void go(timerPath(view.id, setup.id, follower.id))
    else toJob(how)
  })
  useWakeLock(timer.state === 'running' || timer.series > 0)
  const paused = holding(timer)
  const form = useForm<Was>({ resolver: zodResolver(wasSchema), mode: 'onChange', defaultValues: before(view, test, setup) })

  const { press, undo: takeBack, after } = outbox
  const { sitting } = held
  const armed = held.id !== '' || outbox.waiting.some((p) => p.timer === id)
  // The run is being kept, and the timer goes with it: nothing is pressed in the meantime. One that is armed again takes
  // presses from when the bench says so, however late the answer is: somebody's thumb is on a power button.
  const settling = keep.isPending && held.id === ''
  const sounds = timer.state === 'ready' ? 'start' : timer.marks_ms.length === timer.phases.length ? 'stop' : 'split'
  const next = useRef<Parameters<typeof signal>[0]>(sounds)
  useEffect(() => {
    next.current = sounds
  }, [sounds])
  const send = useCallback(
    (kind: 'press' | 'hold', at: number) => {
      if (settling) return
      const { offset, bound } = clock.at(at)
      const key = newKey()
      const arm = armed ? {} : { arm: { test: test.id, sitting, by: technician.get() } }
      press(
        Number.isFinite(bound)
          ? { timer: id, key, kind, at_ms: at + offset, u_ms: bound, ...arm }
          : { timer: id, key, kind, at_ms: clock.dayAt(at), u_ms: 0, own: true, ...arm },
      )
      signal(kind === 'press' ? next.current : 'tick')
    },
    [clock, press, id, armed, settling, test.id, sitting],
  )
  const { run: keepRun } = keep
  const { handleSubmit: noted } = form
  return {
    timer,
    clock,
    outbox,
    keep,
    form,
    follower,
    cover: coverOf(view, test.id, setup.id),
    ready: timer.state === 'ready',
    running: timer.state === 'running',
    stopped: timer.state === 'stopped',
    paused,
    settling,
    /** mark takes a press at a time of the page, ms; while the user's part is left out, it ends the pause and marks nothing. */
    mark: useCallback((at: number) => send(paused ? 'hold' : 'press', performance.timeOrigin + at), [send, paused]),
    hold: useCallback((at: number) => send('hold', performance.timeOrigin + at), [send]),
    countdown: useCountdown(useCallback(() => send('press', pageNow()), [send])),
    undo: useCallback(() => takeBack(id), [takeBack, id]),
    /** keepIt keeps what the presses say, those too that are still on their way. */
    keepIt: useCallback(
      (more: { again?: boolean; series?: number; next?: boolean; set_aside?: string }) => after(held.id, (timer) => void noted((was) => keepRun({ ...was, timer, ...more }))()),
      [after, keepRun, noted, held.id],
    ),
  }
}
