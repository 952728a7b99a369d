import { useEffect, useState } from 'react'
import type { Test, Timer } from '../api/client'
import { figure } from '../ui/format'
import { whatPressDoes } from './laps'
import type { Timing } from './useTiming'

/** Status says what a press does now, or what was measured, and what is still on its way to the bench. */
export function Status({ of: { countdown, stopped, paused, timer, outbox }, test, uncounted }: { of: Timing; test: Test; uncounted?: string }) {
  return (
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
            <span className="sm:hidden">A tap</span> <strong>{paused ? 'resumes' : whatPressDoes(timer, test)}</strong>
          </p>
          {paused && <p className="text-base text-secondary">Paused: what the user does is left out.</p>}
          {!paused && uncounted && <p className="text-base text-secondary">The time waits: “{uncounted}” does not count.</p>}
        </>
      )}
      {outbox.waiting.length > 0 && <Waiting n={outbox.waiting.length} kept={outbox.held} />}
    </div>
  )
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
