import { Cpu, Undo2, X } from 'lucide-react'
import { useCallback, useEffect, useMemo, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { lineUp, pageNow } from '../api/clock'
import type { Setup, Test, Timer, View } from '../api/client'
import { useDiscardTimer, useKeepTimer, usePerform, usePressTimer, useUndoTimer } from '../api/queries'
import { coverOf, runsOf, simulatedOn } from '../job/view'
import { clock, figure } from '../ui/format'
import { Refusal, SideMark, Simulated, sideName } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { counted, lapsOf, whatPressDoes } from './laps'
import { Phases } from './Phases'

/** Glass is the timer on the whole screen: space, or anywhere on it, starts, splits and stops. */
export function Glass({ view, setup, test, timer }: { view: View; setup: Setup; test: Test; timer: Timer }) {
  const go = useNavigate()
  const press = usePressTimer(view.id)
  const undo = useUndoTimer(view.id)
  const keep = useKeepTimer(view.id)
  const discard = useDiscardTimer(view.id)
  const perform = usePerform(view.id)
  const offset = useOffset()
  const now = useNow(timer.state === 'running') + offset
  const laps = lapsOf(timer, now)
  const waiting = laps.find((l) => l.state === 'running' && !l.counts)
  const stopped = timer.state === 'stopped'
  const job = `/jobs/${view.id}`

  const mark = useCallback(
    (at: number) => press.mutate({ key: crypto.randomUUID(), at_ms: performance.timeOrigin + at + offset }),
    [press, offset],
  )
  useShortcuts(
    useMemo(
      () => [
        { key: ' ', label: 'Start, split, stop', always: true, run: (e: KeyboardEvent) => !stopped && mark(e.timeStamp) },
        { key: 'u', label: 'Take the last press back', run: () => undo.mutate(undefined) },
        ...(stopped
          ? [
              { key: 'k', label: 'Keep', run: () => keep.mutate(false, () => void go(job)) },
              { key: 'a', label: 'Keep, and again', run: () => keep.mutate(true) },
              { key: 'd', label: 'Discard', run: () => discard.mutate(undefined) },
            ]
          : []),
        { key: 'Escape', label: 'Back to the job (the timer goes on)', run: () => void go(job) },
      ],
      [stopped, mark, undo, keep, discard, go, job],
    ),
  )

  const cover = coverOf(view, test.id, setup.id)
  const side = setup.role === 'then' ? 'then' : 'now'
  const error = press.error ?? undo.error ?? keep.error ?? discard.error ?? perform.error
  return (
    <div
      className="flex flex-1 cursor-pointer flex-col select-none"
      onPointerDown={(e) => {
        if (!stopped && !(e.target as Element).closest('button, a')) mark(e.timeStamp)
      }}
    >
      <header className={`flex flex-wrap items-center gap-x-4 gap-y-1 border-b-8 px-4 py-3 md:px-8 ${side === 'then' ? 'border-then' : 'border-now'}`}>
        <span className={`flex items-center gap-2 text-2xl font-bold ${side === 'then' ? 'text-then' : 'text-now'}`}>
          <SideMark side={side} size={20} /> {sideName(setup.role)}
        </span>
        <h1 className="text-xl font-semibold">{test.name}</h1>
        {cover && (
          <span className="text-secondary">
            {cover.kept} of {cover.wanted} runs kept
          </span>
        )}
        {simulatedOn(view, setup) && <Simulated small />}
        <Link to={job} className="btn btn-ghost btn-sm ml-auto" aria-label="Back to the job; a running timer goes on">
          <X size={20} aria-hidden /> Leave
        </Link>
      </header>

      <div className="flex flex-1 flex-col items-center justify-center gap-4 px-4 text-center">
        <p
          className={`text-[clamp(5rem,25vw,17rem)] leading-none font-bold tracking-tight tabular-nums ${waiting ? 'text-secondary' : ''}`}
          aria-hidden
        >
          {clock(counted(laps))}
        </p>
        <div role="status" className="min-h-20 text-xl md:text-2xl">
          {stopped ? (
            <Stopped timer={timer} />
          ) : (
            <>
              <p>
                <span className="max-sm:hidden">
                  <kbd className="key">Space</kbd> or the glass
                </span>
                <span className="sm:hidden">A tap</span> <strong>{whatPressDoes(timer)}</strong>
              </p>
              {waiting && <p className="text-base text-secondary">The figure waits: “{waiting.name}” does not count.</p>}
            </>
          )}
        </div>
        {error && (
          <div className="max-w-xl text-left">
            <Refusal error={error} />
          </div>
        )}
        <div className="flex min-h-16 flex-wrap items-center justify-center gap-3">
          {stopped && (
            <>
              <button type="button" className="btn btn-primary btn-lg" disabled={keep.isPending} onClick={() => keep.mutate(false, () => void go(job))}>
                Keep <kbd className="key max-sm:hidden">k</kbd>
              </button>
              <button type="button" className="btn btn-lg" disabled={keep.isPending} onClick={() => keep.mutate(true)}>
                Keep, and again <kbd className="key max-sm:hidden">a</kbd>
              </button>
              <button type="button" className="btn btn-lg" onClick={() => discard.mutate(undefined)}>
                Discard <kbd className="key max-sm:hidden">d</kbd>
              </button>
            </>
          )}
          {timer.marks_ms.length > 0 && (
            <button type="button" className="btn btn-ghost" onClick={() => undo.mutate(undefined)}>
              <Undo2 size={18} aria-hidden /> Take the last press back <kbd className="key max-sm:hidden">u</kbd>
            </button>
          )}
          {timer.state === 'ready' && simulatedOn(view, setup) && (
            <button
              type="button"
              className="btn border-dashed border-accent"
              disabled={perform.isPending}
              onClick={() => perform.mutate({ test: test.id, sitting: timer.sitting })}
            >
              <Cpu size={18} aria-hidden /> Let the simulated computer do it
            </button>
          )}
        </div>
        <Made view={view} test={test} setup={setup} />
      </div>
      <Phases laps={laps} side={side} />
    </div>
  )
}

/** Stopped says what the time is and how sure. */
function Stopped({ timer }: { timer: Timer }) {
  if (timer.value === null) return null
  return (
    <p>
      <strong>{figure(timer.value, 's')}</strong>, give or take {(2 * timer.u).toFixed(1)} s{' '}
      <span className="block text-base text-secondary">
        by hand: standard uncertainty {timer.u.toFixed(2)} s, from starting and stopping
      </span>
    </p>
  )
}

/** Made lists the runs that were made of this test here. */
function Made({ view, test, setup }: { view: View; test: Test; setup: Setup }) {
  const runs = runsOf(view, test.id, setup.id)
  if (runs.length === 0) return null
  return (
    <p className="text-secondary">
      So far:{' '}
      {runs.map((r, i) => (
        <span key={r.id}>
          {i > 0 && ' · '}
          <span className={r.set_aside ? 'line-through' : ''}>{figure(r.value, test.unit)}</span>
          {r.set_aside ? ' (set aside)' : ''}
        </span>
      ))}
    </p>
  )
}

/** useOffset lines the page's clock up with the bench's once; 0 until that is done, which on one computer it nearly is. */
function useOffset() {
  const [offset, setOffset] = useState(0)
  useEffect(() => {
    let gone = false
    lineUp().then(
      (ms) => {
        if (!gone) setOffset(ms)
      },
      () => undefined, // the presses themselves will say that the bench does not answer
    )
    return () => {
      gone = true
    }
  }, [])
  return offset
}

/** useNow is the page's clock in ms, ticking with the screen while it runs. */
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
