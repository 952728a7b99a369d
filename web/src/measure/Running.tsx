import { scaleLinear } from 'd3-scale'
import { area, line } from 'd3-shape'
import { useMemo } from 'react'
import type { Measuring, View } from '../api/client'
import { useCancelMeasuring } from '../api/queries'
import { setupOf, testOf } from '../job/view'
import { bytes, figure, minutes } from '../ui/format'
import { Refusal } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { plain } from './words'

/** Running shows a round while it goes: what is being done, the live rate, how far it is, and how to stop it. */
export function Running({ view, m }: { view: View; m: Measuring }) {
  const cancel = useCancelMeasuring(view.id)
  const test = testOf(view, m.test)
  const stop = cancel.mutate
  useShortcuts(useMemo(() => [{ key: 'c', label: 'Cancel the measuring', run: () => stop() }], [stop]))
  const side = setupOf(view, m.setup)?.role === 'then' ? 'then' : 'now'
  return (
    <section aria-label="Measuring" className="flex flex-col gap-4">
      <div>
        <p className="text-2xl font-bold" role="status">
          {m.laying ? 'Laying out the test file' : `${test?.name ?? m.test}, run ${m.run} of ${m.runs}`}
        </p>
        <p className="text-secondary">{m.laying ? 'It is filled with data that cannot be made smaller. Nothing is measured yet.' : test && plain(test)}</p>
      </div>
      <div className="sheet relative overflow-hidden p-5">
        <Trace rates={m.rates} side={side} />
        <p className="relative text-6xl leading-none font-bold tabular-nums md:text-7xl">
          {figure(m.rate, '').trim()} <span className="text-2xl font-semibold">{m.unit}</span>
        </p>
        <p className="relative mt-1 text-secondary">
          just now · {bytes(m.bytes)} moved
          {m.half_width_pct !== null && !m.laying && ` · sure to ± ${m.half_width_pct.toPrecision(2)} % already`}
        </p>
        <div className="h-24" aria-hidden />
      </div>
      <Parts m={m} />
      <p className="text-lg">
        <strong>{m.kept}</strong> of {m.of} runs done and kept
        {m.left_s > 0 && (
          <>
            {' '}
            · about <strong>{minutes(m.left_s / 60)}</strong> left
          </>
        )}
      </p>
      {cancel.error && <Refusal error={cancel.error} />}
      <button type="button" className="btn btn-lg self-start" disabled={cancel.isPending} onClick={() => stop()}>
        {cancel.isPending ? 'Stopping …' : 'Cancel'} <kbd className="key">c</kbd>
      </button>
    </section>
  )
}

/** Parts is one piece for every run of the round, filled as they are done. */
function Parts({ m }: { m: Measuring }) {
  return (
    <div className="flex gap-1" role="progressbar" aria-label="Runs done" aria-valuemin={0} aria-valuemax={m.of} aria-valuenow={m.kept}>
      {Array.from({ length: m.of }, (_, i) => {
        const done = i < m.kept ? 1 : i === m.kept && !m.laying ? m.done : 0
        return (
          <span key={i} className="h-3 flex-1 overflow-hidden rounded-sm bg-base-300">
            <svg width="100%" height="100%" aria-hidden>
              <rect width={`${done * 100}%`} height="100%" className="fill-base-content" />
            </svg>
          </span>
        )
      })}
    </div>
  )
}

/** Trace draws the live rate over the last moments. */
function Trace({ rates, side }: { rates: number[]; side: 'then' | 'now' }) {
  if (rates.length < 2) return null
  const x = scaleLinear([0, rates.length - 1], [0, 100])
  const y = scaleLinear([0, Math.max(...rates) * 1.1 || 1], [100, 0])
  const points = rates.map((r, i): [number, number] => [x(i), y(r)])
  const fill = area<[number, number]>((p) => p[0], 100, (p) => p[1])(points) ?? ''
  const stroke = line()(points) ?? ''
  return (
    <svg viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden className="absolute inset-x-0 bottom-0 h-28 w-full">
      <path d={fill} className={side === 'then' ? 'fill-then-soft' : 'fill-now-soft'} />
      <path d={stroke} fill="none" vectorEffect="non-scaling-stroke" strokeWidth="2" className={side === 'then' ? 'stroke-then' : 'stroke-now'} />
    </svg>
  )
}
