import { memo } from 'react'
import type { Row, Run } from '../api/client'
import { reasonAside } from '../job/view'
import { figure } from '../ui/format'
import type { Axis } from './axis'

const percent = (share: number) => `${share * 100}%`

/**
 * Scale draws both sides of a line on its group's axis: every run as a mark, the centre stronger, and as a faint band where Now lies
 * by the 95 % interval of the factor, seen from Then's centre. Runs of later sittings are filled.
 */
export const Scale = memo(function Scale({ row, axis }: { row: Row; axis: Axis }) {
  if (row.then_runs.length + row.with_runs.length === 0) return <div className="h-11" />
  const { at } = axis
  const band = bandOf(row)
  const { line } = row
  const start = axis.log ? 0 : at(0)
  return (
    <figure className="m-0" aria-label={altText(row)}>
      <svg width="100%" height="44" className="block overflow-visible" aria-hidden>
        {axis.ticks.map((t) => (
          <line key={t.at} x1={percent(t.at)} x2={percent(t.at)} y1="0" y2="44" className="stroke-base-300" />
        ))}
        {band && <rect x={percent(at(band[0]))} y="24" width={percent(Math.max(0.004, at(band[1]) - at(band[0])))} height="18" className="fill-now-soft" />}
        {line.then && <line x1={percent(start)} x2={percent(at(line.then.centre))} y1="12" y2="12" strokeWidth="2" className="stroke-then" />}
        {line.with && <line x1={percent(start)} x2={percent(at(line.with.centre))} y1="33" y2="33" strokeWidth="2" className="stroke-now" />}
        <Marks runs={row.then_runs} axis={axis} y={12} side="then" />
        <Marks runs={row.with_runs} axis={axis} y={33} side="now" />
        {line.then && <rect x={percent(at(line.then.centre))} y="2" width="5" height="20" rx="1" className="-translate-x-[2.5px] fill-then" />}
        {line.with && <rect x={percent(at(line.with.centre))} y="23" width="5" height="20" rx="1" className="-translate-x-[2.5px] fill-now" />}
      </svg>
    </figure>
  )
})

/** Ticks writes a group's scale, once, and says which it is. */
export function Ticks({ axis }: { axis: Axis }) {
  return (
    <div className="relative h-5 text-xs text-secondary" aria-hidden>
      {axis.ticks.map((t) => (
        <span key={t.at} className={`absolute whitespace-nowrap ${t.at < 0.03 ? '' : t.at > 0.93 ? '-translate-x-full' : '-translate-x-1/2'}`} style={{ left: percent(t.at) }}>
          {t.label}
        </span>
      ))}
    </div>
  )
}

/** bandOf is where Now's centre lies by the interval of the factor, in the test's unit. */
function bandOf({ line, test }: Row): [number, number] | null {
  if (line.low === null || line.high === null || !line.then) return null
  const then = line.then.centre
  return test.better === 'lower' ? [then / line.high, then / line.low] : [then * line.low, then * line.high]
}

/** most marks are drawn of a side on a line: the first ones, the last ones, and every so many between. */
const most = 60

function Marks({ runs, axis, y, side }: { runs: Run[]; axis: Axis; y: number; side: 'then' | 'now' }) {
  const first = runs[0]?.sitting
  const every = Math.ceil(runs.length / most)
  return runs.map((r, i) => {
    if (i % every !== 0 && i !== runs.length - 1) return null
    const at = axis.at(r.value)
    if (at < 0 || at > 1) return <Beyond key={r.id} low={at < 0} y={y} side={side} />
    return <Mark key={r.id} run={r} x={percent(at)} y={y} side={side} later={r.sitting !== first} />
  })
}

/** Beyond is an arrow at the edge, for a run that lies outside the scale. */
function Beyond({ low, y, side }: { low: boolean; y: number; side: 'then' | 'now' }) {
  return (
    <svg x={low ? '0%' : '100%'} y={y - 5} width="9" height="10" className={`overflow-visible ${low ? '' : '-translate-x-[9px]'}`} data-beyond>
      <path d={low ? 'M9 0L0 5L9 10Z' : 'M0 0L9 5L0 10Z'} className={side === 'then' ? 'fill-then' : 'fill-now'} />
    </svg>
  )
}

function Mark({ run, x, y, side, later }: { run: Run; x: string; y: number; side: 'then' | 'now'; later: boolean }) {
  if (reasonAside(run) !== undefined) {
    return (
      <svg x={x} y={y - 4} width="8" height="8" className="-translate-x-[4px] overflow-visible">
        <path d="M1 1L7 7M7 1L1 7" strokeWidth="2" className="stroke-secondary" />
      </svg>
    )
  }
  const fill = later ? (side === 'then' ? 'fill-then' : 'fill-now') : 'fill-base-100'
  if (side === 'then') return <rect x={x} y={y - 4} width="8" height="8" strokeWidth="2" className={`-translate-x-[4px] stroke-then ${fill}`} />
  return <circle cx={x} cy={y} r="4.5" strokeWidth="2" className={`stroke-now ${fill}`} />
}

/** altText is the drawing in words; the runs are in the tables of the opened line. */
function altText({ test, line, words }: Row): string {
  const side = (name: string, s: Row['line']['then']) =>
    s ? `${name} ${figure(s.centre, test.unit)} from ${s.n} ${s.n === 1 ? 'run' : 'runs'} between ${figure(s.min, '')} and ${figure(s.max, '')}` : `${name} not measured`
  return `${test.name}: ${side('Then', line.then)}; ${side('Now', line.with)}. ${words.factor} ${words.range}`.trim()
}
