import { Cpu, Hand, Undo2, Volume2, VolumeX, X } from 'lucide-react'
import { useMemo } from 'react'
import { useWatch } from 'react-hook-form'
import { Link, useNavigate } from 'react-router'
import type { Setup, Test, Timer, View } from '../api/client'
import { Help } from '../app/Help'
import { usePerform } from './queries'
import { sidePath, videoPath } from '../job/paths'
import { setupName, simulatedOn } from '../job/view'
import { giveOrTake } from '../ui/format'
import { Heading } from '../ui/Heading'
import { Refusal, SideMark, Simulated } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { Digits } from './Digits'
import { FinishLine } from './FinishLine'
import { Keeps } from './Keeps'
import { lapsOf } from './laps'
import { Phases } from './Phases'
import { Settle } from './Settle'
import { useSignals } from './signals'
import { Status } from './Status'
import { useTap } from './useTap'
import { useTiming, type Timing } from './useTiming'
import { WhatItWas } from './WhatItWas'

type Place = { view: View; setup: Setup; test: Test }

/** Glass is the full-screen timer: Space, or a tap anywhere on it, starts, splits and stops. */
export function Glass({ timer: held, ...at }: Place & { timer: Timer }) {
  const { view, setup, test } = at
  const go = useNavigate()
  const timing = useTiming(view, setup, test, held)
  const { timer, clock, countdown, mark, hold, undo, ready, running, stopped, paused, settling } = timing
  const perform = usePerform(view.id)
  const job = sidePath(view.id, setup)
  useShortcuts(
    useMemo(
      () => [
        { key: ' ', label: 'Start, split, stop', run: (e: KeyboardEvent) => !stopped && mark(e.timeStamp) },
        { key: 'u', label: 'Undo last press', run: undo },
        ...(running ? [{ key: 'h', label: 'Pause for the user, or resume', run: (e: KeyboardEvent) => hold(e.timeStamp) }] : []),
        ...(ready ? [{ key: 'c', label: 'Count down to the start', run: countdown.begin }] : []),
        { key: 'Escape', label: 'Back to the job (the timer keeps running)', run: () => void go(job) },
      ],
      [stopped, running, ready, mark, hold, countdown.begin, undo, go, job],
    ),
  )
  const tap = useTap(!stopped && !settling && countdown.left === undefined, mark)
  // The state between two presses; the running time is drawn separately, many times a second.
  const uncounted = lapsOf(timer, timer.marks_ms.at(-1) ?? 0).find((l) => l.state === 'running' && !l.counts)
  const error = timing.outbox.error ?? timing.keep.error ?? perform.error
  const side = setup.role === 'then' ? 'then' : 'now'
  return (
    <div
      className="flex flex-1 cursor-pointer touch-pan-y flex-col select-none"
      {...tap}
      // A clicked control doesn't keep the focus: Space belongs to the timer.
      onClick={(e) => e.detail > 0 && (document.activeElement as HTMLElement | null)?.blur()}
    >
      <Head {...at} of={timing} side={side} />
      <div className="flex flex-1 flex-col items-center justify-center gap-3 px-4 py-2 text-center">
        <p
          className={`text-[clamp(5rem,24vw,15rem)] leading-none font-bold tracking-tight tabular-nums ${uncounted || paused ? 'text-secondary' : ''}`}
          aria-hidden
        >
          {countdown.left ?? <Digits timer={timer} bench={clock} />}
        </p>
        <Status of={timing} test={test} uncounted={uncounted?.name} />
        {error && (
          <div className="max-w-xl text-left">
            <Refusal error={error} />
          </div>
        )}
        <div className="flex min-h-16 flex-wrap items-center justify-center gap-3">
          {stopped && <Keeps key={timer.id} of={timing} />}
          {running && <Pause of={timing} />}
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
        {ready && <Same of={timing} test={test} />}
        {stopped && <WhatItWas {...at} form={timing.form} />}
        {!stopped && timer.finish && <FinishLine timer={timer} />}
        <Settle {...at} />
        <Reaction {...at} timer={timer} armed={held.id !== ''} />
      </div>
      <Phases timer={timer} bench={clock} side={side} />
      {/* The pad never moves and holds nothing else: one thumb finds it without looking. */}
      <button
        type="button"
        data-pad
        disabled={stopped || settling}
        className="sticky bottom-0 h-[45dvh] w-full shrink-0 border-t-4 border-base-content bg-base-200 text-2xl font-bold sm:sr-only"
        onClick={(e) => e.detail === 0 && mark(e.timeStamp)} // by a key or a screen reader
      >
        {stopped ? 'Stopped' : paused ? 'Resume' : ready ? 'Start' : 'Press'}
      </button>
    </div>
  )
}

/** Head says what is timed, on which side, how many runs there are, and leads out. */
function Head({ view, setup, test, of: { cover, timer, running }, side }: Place & { of: Timing; side: 'then' | 'now' }) {
  const signals = useSignals()
  return (
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
      {!running && <Help /> /* nothing lies over a timer that runs */}
      <Link to={sidePath(view.id, setup)} className="btn btn-ghost btn-sm" aria-label="Leave; a running timer keeps running">
        <X size={20} aria-hidden /> <span className="max-sm:hidden">Leave</span>
      </Link>
    </header>
  )
}

/** Pause leaves out what the user does. */
function Pause({ of: { paused, hold } }: { of: Timing }) {
  return (
    <button
      type="button"
      className={`btn btn-lg w-80 max-w-full ${paused ? 'btn-primary' : ''}`} // as wide in both states: what lies beside it doesn't come under the thumb
      aria-pressed={paused}
      onPointerDown={(e) => e.isPrimary && e.button === 0 && hold(e.timeStamp)}
      onClick={(e) => e.detail === 0 && hold(e.timeStamp)} // by a key
    >
      <Hand size={20} aria-hidden /> {paused ? 'Resume' : 'Pause for the user'} <kbd className="key max-sm:hidden">h</kbd>
    </button>
  )
}

/** Same says what has to be opened again. */
function Same({ of, test }: { of: Timing; test: Test }) {
  const was = useWatch({ control: of.form.control })
  const same = [was.content || test.content, was.app_version && `version ${was.app_version}`].filter(Boolean).join(', ')
  return same ? (
    <p>
      The same again: <strong>{same}</strong>
    </p>
  ) : null
}

/** Reaction says whose reaction the uncertainty rests on. */
function Reaction({ view, setup, test, timer, armed }: Place & { timer: Timer; armed: boolean }) {
  return (
    <p className="text-sm text-secondary">
      {armed && (
        <>
          {timer.by ? `Timed by ${timer.by}, ` : 'Timed '}with {timer.calibrated ? 'their own' : 'the usual'} reaction of {giveOrTake(timer.reaction, 's')}.{' '}
        </>
      )}
      <Link className="link" to={`/reaction?back=${encodeURIComponent(location.pathname)}`}>
        {!armed ? 'Measure your own reaction' : timer.calibrated ? 'Measure it again' : 'Measure your own'}
      </Link>{' '}
      ·{' '}
      <Link className="link" to={videoPath(view.id, setup.id, test.id)}>
        Time it from a video
      </Link>
    </p>
  )
}
