import { scaleLinear } from 'd3-scale'
import type { Row, Run } from '../api/client'
import { reasonAside } from '../job/view'
import { figure } from '../ui/format'

/**
 * Scale draws both sides of a line on one axis: every run as a mark, the centre stronger, and as a faint band where Now
 * lies by the 95 % interval of the factor, seen from Then's centre.
 */
export function Scale({ row }: { row: Row }) {
  const all = [...row.then_runs, ...row.with_runs].map((r) => r.value)
  if (all.length === 0) return <div className="h-16" />
  const x = scaleLinear([0, Math.max(...all) * 1.04], [0, 100])
  const band = bandOf(row)
  const at = (v: number) => `${Math.max(0, Math.min(100, x(v)))}%`
  const { line } = row
  return (
    <figure className="m-0" aria-label={altText(row)}>
      <svg width="100%" height="58" className="overflow-visible" aria-hidden>
        <line x1="0" x2="100%" y1="29" y2="29" className="stroke-base-300" />
        <line x1="0" x2="0" y1="0" y2="58" className="stroke-base-content" />
        {band && <rect x={at(band[0])} y="31" width={`${Math.max(0.4, x(band[1]) - x(band[0]))}%`} height="26" className="fill-now-soft" />}
        {line.then && <line x1="0" x2={at(line.then.centre)} y1="15" y2="15" strokeWidth="2" className="stroke-then" />}
        {line.with && <line x1="0" x2={at(line.with.centre)} y1="44" y2="44" strokeWidth="2" className="stroke-now" />}
        {row.then_runs.map((r) => (
          <Mark key={r.id} run={r} at={at(r.value)} y={15} side="then" />
        ))}
        {row.with_runs.map((r) => (
          <Mark key={r.id} run={r} at={at(r.value)} y={44} side="now" />
        ))}
        {line.then && <rect x={at(line.then.centre)} y="3" width="5" height="24" rx="1" className="-translate-x-[2.5px] fill-then" />}
        {line.with && <rect x={at(line.with.centre)} y="32" width="5" height="24" rx="1" className="-translate-x-[2.5px] fill-now" />}
      </svg>
      <div className="relative h-5 text-xs text-secondary" aria-hidden>
        {x.ticks(4).map((t) => (
          <span key={t} className={`absolute whitespace-nowrap ${t === 0 ? '' : x(t) > 93 ? '-translate-x-full' : '-translate-x-1/2'}`} style={{ left: at(t) }}>
            {t === 0 ? '0' : `${t.toLocaleString('en')} ${row.test.unit}`}
          </span>
        ))}
      </div>
    </figure>
  )
}

/** bandOf is where Now's centre lies by the interval of the factor, in the test's unit. */
function bandOf({ line, test }: Row): [number, number] | null {
  if (line.low === null || line.high === null || !line.then) return null
  const then = line.then.centre
  return test.better === 'lower' ? [then / line.high, then / line.low] : [then * line.low, then * line.high]
}

function Mark({ run, at, y, side }: { run: Run; at: string; y: number; side: 'then' | 'now' }) {
  const aside = reasonAside(run) !== undefined
  const paint = aside ? 'fill-base-100 stroke-secondary' : side === 'then' ? 'fill-base-100 stroke-then' : 'fill-base-100 stroke-now'
  if (aside) {
    return (
      <svg x={at} y={y - 5} width="10" height="10" className="-translate-x-[5px] overflow-visible">
        <path d="M1 1L9 9M9 1L1 9" strokeWidth="2" className="stroke-secondary" />
      </svg>
    )
  }
  if (side === 'then') return <rect x={at} y={y - 5} width="10" height="10" strokeWidth="2" className={`-translate-x-[5px] ${paint}`} />
  return <circle cx={at} cy={y} r="5.5" strokeWidth="2" className={paint} />
}

/** altText is the drawing in words; the runs stand in the table below it. */
function altText({ test, line, words }: Row): string {
  const side = (name: string, s: Row['line']['then']) =>
    s ? `${name} ${figure(s.centre, test.unit)} from ${s.n} ${s.n === 1 ? 'run' : 'runs'} between ${figure(s.min, '')} and ${figure(s.max, '')}` : `${name} not measured`
  return `${test.name}: ${side('Then', line.then)}; ${side('Now', line.with)}. ${words.factor} ${words.range}`.trim()
}
