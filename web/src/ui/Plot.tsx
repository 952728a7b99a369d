import { useEffect, useId, useMemo, useRef, useState, type KeyboardEvent } from 'react'
import uPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { aligned, decades, readout, type Axis, type Curve, type Mark, type Side } from './plotted'
import { useTheme } from './theme'

/** How far a key moves the readout: arrows by one place, page keys by a tenth of them. */
const steps: Record<string, (n: number, at: number) => number> = {
  ArrowLeft: (_, at) => at - 1,
  ArrowRight: (_, at) => at + 1,
  ArrowDown: (_, at) => at - 1,
  ArrowUp: (_, at) => at + 1,
  PageDown: (n, at) => at - Math.ceil(n / 10),
  PageUp: (n, at) => at + Math.ceil(n / 10),
  Home: () => 0,
  End: (n) => n - 1,
}

/**
 * Plot draws curves of both sides on one pair of axes; the pointer or the arrow keys read the figures off it. What it shows as a
 * whole is in alt. Bare leaves the axes away, for a trace that is beside its figure.
 */
export function Plot(props: { curves: Curve[]; x: Axis; y: Axis; marks?: Mark[]; stepped?: boolean; bare?: boolean; height?: number; alt: string }) {
  const { curves, x, y, marks = [], stepped = false, bare = false, height = 220, alt } = props
  const box = useRef<HTMLDivElement>(null)
  const plot = useRef<uPlot>(undefined)
  const [at, setAt] = useState<number | null>(null)
  const theme = useTheme()
  const about = useId()
  const data = useMemo(() => aligned(curves), [curves])
  const shape = curves.map((c) => `${c.id} ${c.side} ${c.faint ?? ''} ${c.filled ?? ''} ${c.dashed ?? ''}`).join() + marks.map((m) => m.label + m.x).join()
  const latest = useRef({ curves, data, x, y, marks })
  useEffect(() => {
    latest.current = { curves, data, x, y, marks }
  })

  useEffect(() => {
    const at = box.current
    if (!at || curves.length === 0) return
    const now = latest.current
    const style = getComputedStyle(document.documentElement)
    const paint = (name: string) => style.getPropertyValue(`--${name}`).trim()
    const font = `12px ${getComputedStyle(at).fontFamily}`
    const axis = { stroke: paint('color-secondary'), font, grid: { stroke: paint('color-base-300'), width: 1 }, ticks: { show: false } }
    plot.current = new uPlot(
      {
        width: at.clientWidth || 600,
        height,
        legend: { show: false },
        padding: bare ? [4, 0, 0, 0] : [12, 24, 0, 0],
        cursor: { y: false, drag: { x: false, y: false }, points: { size: 9 } },
        scales: {
          x: { time: false, distr: now.x.log ? 3 : 1, range: (_, min, max) => widened(Math.min(latest.current.x.from ?? min, min), Math.max(max, ...latest.current.marks.map((m) => m.x))) },
          y: { range: (_, __, max) => [0, max * 1.06 || 1] },
        },
        axes: [
          { ...axis, show: !bare, size: 28, space: 70, values: (_, list) => list.map((v) => (v === null ? '' : now.x.write(v))), ...placesOf(now.x) },
          { ...axis, show: !bare, size: 78, values: (_, list) => list.map((v) => now.y.write(v)) },
        ],
        series: [
          {},
          ...now.curves.map((c): uPlot.Series => ({
            stroke: paint(c.side),
            fill: c.filled ? paint(`${c.side}-soft`) : undefined,
            width: c.faint ? 1 : 2.5,
            dash: c.dashed ? [8, 5] : undefined,
            alpha: c.faint ? 0.45 : 1,
            spanGaps: true,
            points: { show: false },
            paths: stepped ? uPlot.paths.stepped!({ align: 1 }) : uPlot.paths.linear!(),
          })),
        ],
        hooks: {
          setCursor: [(u) => setAt(u.cursor.idx ?? null)],
          draw: [(u) => drawMarks(u, latest.current.marks, paint, font)],
        },
      },
      now.data,
      at,
    )
    const wide = new ResizeObserver(() => plot.current?.setSize({ width: at.clientWidth, height }))
    wide.observe(at)
    return () => {
      wide.disconnect()
      plot.current?.destroy()
      plot.current = undefined
    }
  }, [shape, theme, height, stepped, bare, curves.length])

  useEffect(() => plot.current?.setData(data), [data])

  // What the keys moved shows in the drawing as well.
  useEffect(() => {
    const u = plot.current
    if (u && at !== null && u.cursor.idx !== at && data[0][at] !== undefined) u.setCursor({ left: u.valToPos(data[0][at], 'x'), top: 0 }, false)
  }, [at, data])

  if (curves.length === 0) return null
  const places = data[0].length
  const said = at === null ? '' : readout(data, curves, at, x, y)
  const move = (e: KeyboardEvent) => {
    const step = steps[e.key]
    if (!step) return
    e.preventDefault()
    e.stopPropagation()
    setAt((at) => Math.max(0, Math.min(places - 1, at === null ? (e.key === 'End' ? places - 1 : 0) : step(places, at))))
  }
  return (
    <div>
      <p id={about} className="sr-only">
        {alt}
      </p>
      <div
        ref={box}
        role="slider"
        tabIndex={0}
        aria-label={`${y.label}, over ${x.label}`}
        aria-describedby={about}
        aria-valuemin={0}
        aria-valuemax={Math.max(0, places - 1)}
        aria-valuenow={at ?? 0}
        aria-valuetext={said || 'Use the arrow keys to read the values'}
        onKeyDown={move}
        className="w-full"
        style={{ height }}
      />
      <p className={`min-h-5 text-sm tabular-nums ${bare ? '' : 'ml-[78px]'}`} aria-hidden>
        {said ? <strong>{said}</strong> : !bare && <span className="text-secondary">{`${y.label}, over ${x.label}`}</span>}
      </p>
    </div>
  )
}

const widened = (from: number, to: number): [number, number] => [from, to > from ? to : from * 1.01 + 1e-9]

/** placesOf are the ticks of an axis that are not the library's own. */
function placesOf(x: Axis): Partial<uPlot.Axis> {
  if (x.at) return { splits: () => x.at!, filter: (_, list) => list }
  if (x.log) return { splits: (_, __, from, to) => decades(from, to), filter: (_, list) => list }
  return {}
}

/** drawMarks draws each mark as a dashed line with its word at the top, one below the other. */
function drawMarks(u: uPlot, marks: Mark[], paint: (name: Side) => string, font: string) {
  const { ctx } = u
  const dots = devicePixelRatio
  marks.forEach((m, i) => {
    const left = u.valToPos(m.x, 'x', true)
    ctx.save()
    ctx.strokeStyle = ctx.fillStyle = paint(m.side)
    ctx.lineWidth = 1.5 * dots
    ctx.setLineDash([4 * dots, 4 * dots])
    ctx.beginPath()
    ctx.moveTo(left, u.bbox.top)
    ctx.lineTo(left, u.bbox.top + u.bbox.height)
    ctx.stroke()
    ctx.font = `600 ${font.replace('12px', `${12 * dots}px`)}`
    const rightHalf = left > u.bbox.left + u.bbox.width * 0.7
    ctx.textAlign = rightHalf ? 'right' : 'left'
    ctx.fillText(m.label, left + (rightHalf ? -4 : 4) * dots, u.bbox.top + (12 + 16 * i) * dots)
    ctx.restore()
  })
}
