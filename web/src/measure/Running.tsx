import { useMemo } from 'react'
import type { Measuring, View } from '../api/client'
import { useCancelMeasuring } from './queries'
import { setupOf, testOf } from '../job/view'
import { bytes, figure, minutes } from '../ui/format'
import { Refusal } from '../ui/parts'
import { Plot } from '../ui/Plot'
import type { Curve, Point, Side } from '../ui/plotted'
import { useShortcuts } from '../ui/shortcuts'
import { useSilence } from './silence'
import { plain } from './words'

/** Running shows a round while it goes: what is being done, rate, latency and temperature over its time, its progress, and how to stop it. */
export function Running({ view, m }: { view: View; m: Measuring }) {
  const cancel = useCancelMeasuring(view.id)
  const test = testOf(view, m.test)
  const stop = cancel.run
  useShortcuts(useMemo(() => [{ key: 'c', label: 'Cancel the measuring', run: () => stop() }], [stop]))
  const side = setupOf(view, m.setup)?.role === 'then' ? 'then' : 'now'
  const processor = test?.kind === 'control'
  const launching = test?.kind === 'timed'
  const last = m.points.at(-1)
  const silent = useSilence(`${m.bytes} ${m.done} ${m.kept} ${m.points.length}`)
  return (
    <section aria-label="Measuring" className="flex flex-col gap-4">
      <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
        <div className="flex-1 basis-80">
          <p className="text-2xl font-bold" role="status">
            {m.waiting ? `Waiting: ${m.waiting}` : m.laying ? `Preparing: ${test?.name ?? m.test}` : `${test?.name ?? m.test}, run ${m.run} of ${m.runs}`}
          </p>
          <p className="text-secondary">
            {m.waiting ? 'It starts automatically once that is over.' : m.laying ? 'Laying out the test files. Nothing is measured yet.' : test && plain(test)}
            {m.block_bytes > 0 && ` Just now: ${bytes(m.block_bytes)}.`}
          </p>
        </div>
        <button type="button" className="btn btn-lg" disabled={cancel.isPending} onClick={() => stop()}>
          {cancel.isPending ? 'Stopping …' : 'Cancel'} <kbd className="key">c</kbd>
        </button>
      </div>
      {cancel.error && <Refusal error={cancel.error} />}
      {launching ? (
        <p className="sheet p-5 text-2xl">The probe starts it on the customer’s computer, times it until it is ready, and closes it again.</p>
      ) : processor ? (
        <p className="sheet p-5 text-4xl font-bold">{Math.round(m.done * 100)} % of the work is done</p>
      ) : (
        <>
          <div className="sheet relative overflow-hidden p-5">
            <p className={`text-6xl leading-none font-bold tabular-nums md:text-7xl ${silent > 0 ? 'text-base-content/60' : ''}`}>
              {figure(m.rate, '').trim()} <span className="text-2xl font-semibold">{m.unit}</span>
            </p>
            <p className="mt-1 text-secondary">
              {silent > 0 ? `no contact for ${silent} s` : 'just now'} · {bytes(m.bytes)} moved
              {m.half_width_pct !== null && !m.laying && ` · precise to ± ${m.half_width_pct.toPrecision(2)} % already`}
            </p>
            <Trace points={m.points.map((p) => [p.at_s, p.rate])} side={side} name={m.unit === 'ms' ? 'Time of a request' : 'Rate'} unit={m.unit} height={88} />
          </div>
          <div className="flex gap-4 *:flex-1">
            {m.unit !== 'ms' && (
              <Small
                title="One request takes"
                side={side}
                points={m.points.map((p) => [p.at_s, p.latency_ms])}
                unit="ms"
                value={last?.latency_ms ? figure(last.latency_ms, 'ms') : ''}
                none="Not known yet."
              />
            )}
            <Small
              title="The drive’s temperature"
              side={side}
              points={m.points.flatMap((p) => (p.temp_c === null ? [] : [[p.at_s, p.temp_c]]))}
              unit="°C"
              value={last?.temp_c !== null && last?.temp_c !== undefined ? `${Math.round(last.temp_c)} °C` : ''}
              none="Not reported by the system."
            />
          </div>
        </>
      )}
      <Parts m={m} />
      <p className="text-lg">
        <strong>{m.kept}</strong> of {m.of} runs done and kept
        {m.left_s > 0 && (
          <>
            {' '}
            · about <strong>{minutes(m.left_s / 60)}</strong> left{m.most_s > m.left_s && `, at most ${minutes(m.most_s / 60)}`}
          </>
        )}
        <span className="block text-base text-secondary">It continues when this page is closed; open it again to watch.</span>
      </p>
    </section>
  )
}

/** Small is one further figure with its own trace. */
function Small({ title, value, points, side, unit, none }: { title: string; value: string; points: Point[]; side: Side; unit: string; none: string }) {
  return (
    <div className="sheet overflow-hidden px-5 pt-3 pb-2">
      <p className="text-sm text-secondary">{title}</p>
      <p className={value ? 'text-3xl leading-tight font-bold' : 'text-lg'}>{value || none}</p>
      {value && <Trace points={points} side={side} name={title} unit={unit} height={40} />}
    </div>
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

/** Trace draws a figure over the time of the run so far. */
function Trace({ points, side, name, unit, height }: { points: Point[]; side: Side; name: string; unit: string; height: number }) {
  const curves: Curve[] = useMemo(() => [{ id: name, side, name: '', points, filled: true }], [points, side, name])
  if (points.length < 2) return <div style={{ height: height + 20 }} />
  return (
    <Plot
      bare
      curves={curves}
      height={height}
      x={{ label: 'the run so far', write: (v) => `At ${v.toFixed(1)} s` }}
      y={{ label: name, write: (v) => figure(v, unit) }}
      alt={`${name} over the run so far`}
    />
  )
}
