import { scaleLinear, scaleLog } from 'd3-scale'
import { area, curveLinear, curveStepAfter, line } from 'd3-shape'

export type Side = 'then' | 'now'
export type Point = [x: number, y: number]

/** Curve is one line of a plot: strong where it is the one to look at, faint where it is one of several. */
export type Curve = { id: string; side: Side; points: Point[]; faint?: boolean; filled?: boolean }

/** Mark is a place on the x axis with a word on it. */
export type Mark = { x: number; side: Side; label: string }

type Axis = { label: string; log?: boolean; from?: number; to?: number; at?: number[]; write: (v: number) => string }

/**
 * Plot draws curves of both sides on one pair of axes. The figures stand as text beside it; the drawing itself is for the eye,
 * alt says what it shows.
 */
export function Plot({ curves, x, y, marks = [], steps, height = 200, alt }: { curves: Curve[]; x: Axis; y: Axis; marks?: Mark[]; steps?: boolean; height?: number; alt: string }) {
  const all = curves.flatMap((c) => c.points)
  if (all.length === 0) return null
  const xs = all.map((p) => p[0])
  const from = x.from ?? Math.min(...xs)
  const to = Math.max(x.to ?? Math.max(...xs), ...marks.map((m) => m.x))
  const sx = (x.log ? scaleLog() : scaleLinear()).domain([from, to === from ? from * 1.01 + 1e-9 : to]).range([0, 100])
  const sy = scaleLinear([0, Math.max(y.to ?? 0, ...all.map((p) => p[1])) * 1.06 || 1], [100, 0])
  const curve = steps ? curveStepAfter : curveLinear
  const at = (p: Point): Point => [sx(p[0]), sy(p[1])]
  const fill = area<Point>((p) => p[0], 100, (p) => p[1]).curve(curve)
  const stroke = line<Point>().curve(curve)
  return (
    <div role="img" aria-label={alt}>
      <div className="relative ml-16" style={{ height }} aria-hidden>
        {sy.ticks(4).map((t) => (
          <span key={t} className="absolute right-full -translate-y-1/2 pr-2 text-xs whitespace-nowrap text-secondary" style={{ top: `${sy(t)}%` }}>
            {y.write(t)}
          </span>
        ))}
        <svg viewBox="0 0 100 100" preserveAspectRatio="none" className="absolute inset-0 h-full w-full overflow-visible">
          {sy.ticks(4).map((t) => (
            <line key={t} x1="0" x2="100" y1={sy(t)} y2={sy(t)} vectorEffect="non-scaling-stroke" className="stroke-base-300" />
          ))}
          {curves.map((c) => c.filled && <path key={c.id} d={fill(c.points.map(at)) ?? ''} opacity="0.75" className={c.side === 'then' ? 'fill-then-soft' : 'fill-now-soft'} />)}
          {curves.map((c) => (
            <path
              key={c.id}
              d={stroke(c.points.map(at)) ?? ''}
              fill="none"
              vectorEffect="non-scaling-stroke"
              strokeWidth={c.faint ? 1 : 2.5}
              opacity={c.faint ? 0.45 : 1}
              className={c.side === 'then' ? 'stroke-then' : 'stroke-now'}
            />
          ))}
          {marks.map((m) => (
            <line
              key={m.label + m.x}
              x1={sx(m.x)}
              x2={sx(m.x)}
              y1="0"
              y2="100"
              vectorEffect="non-scaling-stroke"
              strokeDasharray="4 4"
              strokeWidth="1.5"
              className={m.side === 'then' ? 'stroke-then' : 'stroke-now'}
            />
          ))}
        </svg>
        {marks.map((m, i) => (
          <span
            key={m.label + m.x}
            className={`absolute px-1 text-xs font-semibold whitespace-nowrap ${sx(m.x) > 70 ? '-translate-x-full' : ''} ${m.side === 'then' ? 'text-then' : 'text-now'}`}
            style={{ left: `${sx(m.x)}%`, top: `${i * 16}px` }}
          >
            {m.label}
          </span>
        ))}
      </div>
      <div className="relative ml-16 h-5 text-xs text-secondary" aria-hidden>
        {(x.at ?? ticksOf(sx.ticks(6), x.log)).map((t) => (
          <span key={t} className={`absolute whitespace-nowrap ${sx(t) > 96 ? '-translate-x-full' : sx(t) < 2 ? '' : '-translate-x-1/2'}`} style={{ left: `${sx(t)}%` }}>
            {x.write(t)}
          </span>
        ))}
      </div>
      <p className="ml-16 text-xs text-secondary" aria-hidden>
        {y.label}, over {x.label}
      </p>
    </div>
  )
}

/** tick writes a figure of an axis: as short as it is exact. */
export const tick = (v: number) => Number(v.toPrecision(6)).toLocaleString('en', { maximumSignificantDigits: 6 })

/** ticksOf leaves of a logarithmic axis' ticks those that are 1 × a power of ten, or 1, 2 and 5 where those are few. */
export function ticksOf(ticks: number[], log?: boolean): number[] {
  if (!log) return ticks
  const lead = (v: number) => Math.round(v / 10 ** Math.floor(Math.log10(v) + 1e-9))
  const tens = ticks.filter((t) => lead(t) === 1)
  return tens.length >= 3 ? tens : ticks.filter((t) => [1, 2, 5].includes(lead(t)))
}
