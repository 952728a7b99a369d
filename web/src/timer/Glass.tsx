import { zodResolver } from '@hookform/resolvers/zod'
import { Cpu, Hand, Undo2, Volume2, VolumeX, X } from 'lucide-react'
import { useCallback, useEffect, useMemo, useRef, useState, type PointerEvent } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { Link, useNavigate } from 'react-router'
import { pageNow, useClock } from '../api/clock'
import { newKey } from '../api/key'
import type { Setup, Test, Timer, View } from '../api/client'
import { useKeepTimer, usePerform } from '../api/queries'
import { sidePath, timerPath, videoPath } from '../job/paths'
import { byHand, coverOf, missingRuns, setupName, simulatedOn } from '../job/view'
import { figure, giveOrTake } from '../ui/format'
import { useGoOn } from '../ui/goOn'
import { Heading } from '../ui/Heading'
import { Refusal, SideMark, Simulated } from '../ui/parts'
import { CommandButton } from '../ui/CommandButton'
import { useShortcuts } from '../ui/shortcuts'
import { technician } from '../ui/technician'
import { Digits } from './Digits'
import { FinishLine } from './FinishLine'
import { holding, lapsOf, whatPressDoes, withWaiting } from './laps'
import { asFarAsKnown, useOutbox } from './outbox'
import { Phases } from './Phases'
import { Settle } from './Settle'
import { signal, useSignals, useWakeLock } from './signals'
import { before, wasSchema, WhatItWas, type Was } from './WhatItWas'

/** Glass is the timer on the whole screen: space, or anywhere on it, starts, splits and stops. */
export function Glass({ view, setup, test, timer: held }: { view: View; setup: Setup; test: Test; timer: Timer }) {
  const go = useNavigate()
  const goOn = useGoOn()
  const bench = useClock()
  const outbox = useOutbox(view.id, bench)
  // A timer that is not armed yet goes by a name of this device until it is.
  const [own] = useState(() => `new ${newKey()}`)
  const id = held.id || (outbox.waiting.find((p) => p.arm?.test === test.id && p.arm.sitting === held.sitting)?.timer ?? own)
  const timer = withWaiting(
    { ...held, id },
    outbox.waiting.map((p) => asFarAsKnown(p, bench)),
  )
  const job = sidePath(view.id, setup)
  const toJob = goOn(() => job)
  const follower = followerOf(view, test, setup.id)
  const keep = useKeepTimer(view.id, (how) => {
    if (how.again || how.series || held.series > 0) return
    if (follower && how.next) void go(timerPath(view.id, setup.id, follower.id))
    else toJob(how)
  })
  const perform = usePerform(view.id)
  const signals = useSignals()
  const ready = timer.state === 'ready'
  const running = timer.state === 'running'
  useWakeLock(running || timer.series > 0)
  // What stands between two presses; the time that runs is drawn by itself, many times a second.
  const laps = lapsOf(timer, timer.marks_ms.at(-1) ?? 0)
  const uncounted = laps.find((l) => l.state === 'running' && !l.counts)
  const byHuman = holding(timer)
  const stopped = timer.state === 'stopped'
  const form = useForm<Was>({ resolver: zodResolver(wasSchema), mode: 'onChange', defaultValues: before(view, test, setup) })
  const was = useWatch({ control: form.control })

  const { press, undo: takeBack, after } = outbox
  const { sitting } = held
  const armed = held.id !== '' || outbox.waiting.some((p) => p.timer === id)
  // The run is being kept, and the timer goes with it: nothing is pressed meanwhile. One that is armed again takes
  // presses from when the bench says so, however late the answer is: somebody's thumb is on a power button.
  const settling = keep.isPending && held.id === ''
  const sounds = ready ? 'start' : timer.marks_ms.length === timer.phases.length ? 'stop' : 'split'
  const next = useRef<Parameters<typeof signal>[0]>(sounds)
  useEffect(() => {
    next.current = sounds
  }, [sounds])
  const send = useCallback(
    (kind: 'press' | 'hold', at: number) => {
      if (settling) return
      const { offset, bound } = bench.at(at)
      const key = newKey()
      const arm = armed ? {} : { arm: { test: test.id, sitting, by: technician.get() } }
      press(
        Number.isFinite(bound)
          ? { timer: id, key, kind, at_ms: at + offset, u_ms: bound, ...arm }
          : { timer: id, key, kind, at_ms: bench.dayAt(at), u_ms: 0, own: true, ...arm },
      )
      signal(kind === 'press' ? next.current : 'tick')
    },
    [bench, press, id, armed, settling, test.id, sitting],
  )
  // While the user's part is left out, a press ends the pause and marks nothing.
  const mark = useCallback((at: number) => send(byHuman ? 'hold' : 'press', performance.timeOrigin + at), [send, byHuman])
  const hold = useCallback((at: number) => send('hold', performance.timeOrigin + at), [send])
  const countdown = useCountdown(useCallback(() => send('press', pageNow()), [send]))
  const { run: keepRun } = keep
  const { handleSubmit: noted } = form
  const undo = useCallback(() => takeBack(id), [takeBack, id])
  // What is kept or thrown away is what the presses say, those too that are still on their way.
  const keepIt = useCallback(
    (more: { again?: boolean; series?: number; next?: boolean; set_aside?: string }) => after(held.id, (timer) => void noted((was) => keepRun({ ...was, timer, ...more }))()),
    [after, keepRun, noted, held.id],
  )
  // A run that went wrong is kept as well, with why it doesn't count; the timer is ready for the next.
  const [asking, setAsking] = useState('') // the timer that is to be set aside, while its reason is asked for
  const why = asking === id
  const ask = useCallback(() => setAsking(id), [id])

  useShortcuts(
    useMemo(
      () => [
        { key: ' ', label: 'Start, split, stop', run: (e: KeyboardEvent) => !stopped && mark(e.timeStamp) },
        { key: 'u', label: 'Undo last press', run: undo },
        ...(running ? [{ key: 'h', label: 'Pause for the user, or resume', run: (e: KeyboardEvent) => hold(e.timeStamp) }] : []),
        ...(ready ? [{ key: 'c', label: 'Count down to the start', run: countdown.begin }] : []),
        ...(stopped
          ? [
              { key: 'k', label: 'Keep', run: () => keepIt({}) },
              ...(follower ? [{ key: 'n', label: 'Keep, and time what follows', run: () => keepIt({ next: true }) }] : []),
              { key: 'a', label: 'Keep and run again', run: () => keepIt({ again: true }) },
              { key: 'f', label: 'Keep, five more runs', run: () => keepIt({ series: 5 }) },
              { key: 'd', label: 'Set aside, with a reason', run: ask },
            ]
          : []),
        { key: 'Escape', label: 'Back to the job (the timer keeps running)', run: () => void go(job) },
      ],
      [stopped, running, ready, mark, hold, countdown.begin, undo, keepIt, ask, go, job, follower],
    ),
  )

  const glass = useGlass(!stopped && !settling && countdown.left === undefined, mark)
  const cover = coverOf(view, test.id, setup.id)
  const more = cover !== undefined && cover.kept + 1 < cover.wanted
  const side = setup.role === 'then' ? 'then' : 'now'
  const error = outbox.error ?? keep.error ?? perform.error
  return (
    <div
      className="flex flex-1 cursor-pointer touch-pan-y flex-col select-none"
      {...glass}
      // What was clicked does not keep the keys: Space is the timer's again.
      onClick={(e) => e.detail > 0 && (document.activeElement as HTMLElement | null)?.blur()}
    >
      <header className={`flex flex-wrap items-center gap-x-4 gap-y-1 border-b-8 px-4 py-3 md:px-8 ${side === 'then' ? 'border-then' : 'border-now'}`}>
        <span className={`flex items-center gap-2 text-2xl font-bold ${side === 'then' ? 'text-then' : 'text-now'}`}>
          <SideMark side={side} size={20} /> {setupName(setup)}
        </span>
        <Heading title={test.name} className="text-xl font-semibold">
          {test.name}
        </Heading>
        {cover && (
          <span className="text-secondary">
            {cover.kept} of {cover.wanted} runs kept
            {timer.series > 0 && `, ${timer.series} more in the series`}
          </span>
        )}
        {simulatedOn(view, setup) && <Simulated small />}
        <button type="button" className="btn btn-ghost btn-sm ml-auto" aria-pressed={signals.on} aria-label="Sound and vibration" onClick={signals.toggle}>
          {signals.on ? <Volume2 size={20} aria-hidden /> : <VolumeX size={20} aria-hidden />}
        </button>
        <Link to={job} className="btn btn-ghost btn-sm" aria-label="Leave; a running timer keeps running">
          <X size={20} aria-hidden /> <span className="max-sm:hidden">Leave</span>
        </Link>
      </header>

      <div className="flex flex-1 flex-col items-center justify-center gap-3 px-4 py-2 text-center">
        <p
          className={`text-[clamp(5rem,24vw,15rem)] leading-none font-bold tracking-tight tabular-nums ${uncounted || byHuman ? 'text-secondary' : ''}`}
          aria-hidden
        >
          {countdown.left ?? <Digits timer={timer} bench={bench} />}
        </p>
        <div role="status" className="min-h-16 text-xl md:text-2xl">
          {countdown.left !== undefined ? (
            <p>Power button at zero.</p>
          ) : stopped ? (
            <Stopped timer={timer} />
          ) : (
            <>
              <p>
                <span className="max-sm:hidden">
                  <kbd className="key">Space</kbd> or a tap
                </span>
                <span className="sm:hidden">A tap</span> <strong>{byHuman ? 'resumes' : whatPressDoes(timer, test)}</strong>
              </p>
              {byHuman && <p className="text-base text-secondary">Paused: what the user does is left out.</p>}
              {!byHuman && uncounted && <p className="text-base text-secondary">The figure waits: “{uncounted.name}” does not count.</p>}
            </>
          )}
          {outbox.waiting.length > 0 && <Waiting n={outbox.waiting.length} kept={outbox.held} />}
        </div>
        {error && (
          <div className="max-w-xl text-left">
            <Refusal error={error} />
          </div>
        )}
        <div className="flex min-h-16 flex-wrap items-center justify-center gap-3">
          {stopped && why && <Why of={keep} onReason={(set_aside) => keepIt({ again: true, set_aside })} onBack={() => setAsking('')} />}
          {stopped && !why && (
            <>
              {follower ? (
                <CommandButton of={keep} tone="primary" size="lg" onClick={() => keepIt({ next: true })}>
                  Keep, next: {follower.name} <kbd className="key max-sm:hidden">n</kbd>
                </CommandButton>
              ) : (
                more && (
                  <CommandButton of={keep} tone="primary" size="lg" onClick={() => keepIt({ again: true })}>
                    Keep, next ({cover.kept + 2} of {cover.wanted}) <kbd className="key max-sm:hidden">a</kbd>
                  </CommandButton>
                )
              )}
              <CommandButton of={keep} tone={follower || more ? 'plain' : 'primary'} size="lg" onClick={() => keepIt({})}>
                Keep <kbd className="key max-sm:hidden">k</kbd>
              </CommandButton>
              {(follower || !more) && (
                <CommandButton of={keep} size="lg" onClick={() => keepIt({ again: true })}>
                  Keep and run again <kbd className="key max-sm:hidden">a</kbd>
                </CommandButton>
              )}
              <CommandButton of={keep} size="lg" onClick={() => keepIt({ series: 5 })}>
                Keep, five more runs <kbd className="key max-sm:hidden">f</kbd>
              </CommandButton>
              <button type="button" className="btn btn-lg" onClick={ask}>
                Set aside <kbd className="key max-sm:hidden">d</kbd>
              </button>
            </>
          )}
          {running && (
            <button
              type="button"
              className={`btn btn-lg w-80 max-w-full ${byHuman ? 'btn-primary' : ''}`} // as wide in both states: what lies beside it doesn't come under the thumb
              aria-pressed={byHuman}
              onPointerDown={(e) => e.isPrimary && e.button === 0 && hold(e.timeStamp)}
              onClick={(e) => e.detail === 0 && hold(e.timeStamp)} // by a key
            >
              <Hand size={20} aria-hidden /> {byHuman ? 'Resume' : 'Pause for the user'} <kbd className="key max-sm:hidden">h</kbd>
            </button>
          )}
          {timer.marks_ms.length > 0 && (
            <button type="button" className="btn btn-ghost" onClick={undo}>
              <Undo2 size={18} aria-hidden /> Undo last press <kbd className="key max-sm:hidden">u</kbd>
            </button>
          )}
          {ready && (
            <button type="button" className="btn" disabled={countdown.left !== undefined} onClick={countdown.begin}>
              Count down <kbd className="key max-sm:hidden">c</kbd>
            </button>
          )}
          {ready && simulatedOn(view, setup) && (
            <button
              type="button"
              className="btn border-dashed border-accent"
              disabled={perform.isPending}
              onClick={() => perform.run({ test: test.id, sitting: timer.sitting })}
            >
              <Cpu size={18} aria-hidden /> Let the simulated computer do it
            </button>
          )}
        </div>
        {ready && (was.content || was.app_version || test.content) && (
          <p>
            The same again: <strong>{[was.content || test.content, was.app_version && `version ${was.app_version}`].filter(Boolean).join(', ')}</strong>
          </p>
        )}
        {stopped && <WhatItWas view={view} setup={setup} test={test} form={form} />}
        {!stopped && timer.finish && <FinishLine timer={timer} />}
        <Settle view={view} test={test} setup={setup} />
        <p className="text-sm text-secondary">
          {held.id && (
            <>
              {timer.by ? `Timed by ${timer.by}, ` : 'Timed '}with {timer.calibrated ? 'their own' : 'the usual'} reaction of {giveOrTake(timer.reaction, 's')}.{' '}
            </>
          )}
          <Link className="link" to={`/reaction?back=${encodeURIComponent(location.pathname)}`}>
            {!held.id ? 'Measure your own reaction' : timer.calibrated ? 'Measure it again' : 'Measure your own'}
          </Link>{' '}
          ·{' '}
          <Link className="link" to={videoPath(view.id, setup.id, test.id)}>
            Time it from a video
          </Link>
        </p>
      </div>
      <Phases timer={timer} bench={bench} side={side} />
      {/* The pad never moves and holds nothing else: one thumb finds it without looking. */}
      <button
        type="button"
        data-pad
        disabled={stopped || settling}
        className="sticky bottom-0 h-[45dvh] w-full shrink-0 border-t-4 border-base-content bg-base-200 text-2xl font-bold sm:sr-only"
        onClick={(e) => e.detail === 0 && mark(e.timeStamp)} // by a key or a screen reader
      >
        {stopped ? 'Stopped' : byHuman ? 'Resume' : ready ? 'Start' : 'Press'}
      </button>
    </div>
  )
}

/** reasons are why a timed run doesn't count, most of the time. */
const reasons = ['The phone rang', 'Pressed wrong', 'An update came', 'Something else went wrong']

/** Why asks why a run is set aside; the run is kept with it. */
function Why({ of, onReason, onBack }: { of: { isPending: boolean }; onReason: (why: string) => void; onBack: () => void }) {
  return (
    <div role="group" aria-label="Why it is set aside" className="flex flex-wrap items-center justify-center gap-3">
      <span className="font-semibold">Why?</span>
      {reasons.map((r, i) => (
        <CommandButton key={r} of={of} size="lg" autoFocus={i === 0} onClick={() => onReason(r)}>
          {r}
        </CommandButton>
      ))}
      <button type="button" className="btn btn-ghost btn-lg" onClick={onBack}>
        Back
      </button>
    </div>
  )
}

/** followerOf is the test that follows in the same start and still wants a run, if there is one. */
function followerOf(view: View, test: Test, setup: string): Test | undefined {
  return view.job.tests.find((t) => t.follows === test.id && !t.retired && missingRuns(view, t, setup) > 0 && byHand(view, t))
}

/** slip is how far a finger may move and still have tapped, px. */
const slip = 12

/**
 * useGlass takes presses on the glass: of the mouse's first button at once, of one finger when it lifts where it came down, with the time at
 * which it came down. A finger that scrolls, a second finger and other buttons are no presses.
 */
function useGlass(on: boolean, mark: (at: number) => void) {
  const down = useRef<{ id: number; x: number; y: number; at: number }>(undefined)
  return {
    onPointerDown: (e: PointerEvent) => {
      if (!e.isPrimary) return // a second finger neither presses nor takes the first one's press away
      down.current = undefined
      const held = (e.target as Element).closest('button, a, input, label, summary, select, textarea')
      if (!on || e.button !== 0 || (held && !held.hasAttribute('data-pad'))) return
      if (e.pointerType === 'mouse') mark(e.timeStamp)
      else down.current = { id: e.pointerId, x: e.clientX, y: e.clientY, at: e.timeStamp }
    },
    onPointerUp: (e: PointerEvent) => {
      const d = down.current
      down.current = undefined
      if (d && d.id === e.pointerId && Math.hypot(e.clientX - d.x, e.clientY - d.y) <= slip) mark(d.at)
    },
    onPointerCancel: () => (down.current = undefined), // the finger scrolls
  }
}

/** Waiting says that presses have not reached the bench yet, once that takes longer than usual. */
function Waiting({ n, kept }: { n: number; kept: boolean }) {
  const [long, setLong] = useState(false)
  useEffect(() => {
    const t = setTimeout(() => setLong(true), 700)
    return () => clearTimeout(t)
  }, [])
  if (!long) return null
  return (
    <p className="text-base font-semibold text-warning">
      {n === 1 ? 'One press waits' : `${n} presses wait`} for the network. Nothing is lost; the time is that of the press.
      {kept && ' The run is kept once they are there.'}
    </p>
  )
}

/** Stopped says what the time is and how sure. */
function Stopped({ timer }: { timer: Timer }) {
  if (timer.value === null) return null
  return (
    <p>
      <strong>{figure(timer.value, 's')}</strong>, give or take {(2 * timer.u).toFixed(timer.u < 0.05 ? 2 : 1)} s{' '}
      <span className="block text-base text-secondary">
        {timer.ended ? 'started by hand, stopped by the finish line' : 'by hand'}: standard uncertainty {timer.u.toFixed(2)} s
        {timer.held_s > 0 && `; ${figure(timer.held_s, 's')} of pauses left out`}
      </span>
    </p>
  )
}

/** useCountdown counts 3, 2, 1 and then does something at zero. */
function useCountdown(atZero: () => void) {
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
