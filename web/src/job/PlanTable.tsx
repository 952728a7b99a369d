import { Link } from 'react-router'
import type { Setup, Test, View } from '../api/client'
import { bytes, figure } from '../ui/format'
import { SideMark, sideName } from '../ui/parts'
import { measurePath, timerPath } from './paths'
import { coverOf, driveName, driveOf, missingRuns, reasonAside, runsOf } from './view'

/** PlanTable is the plan: every test with what is done of it on every setup. */
export function PlanTable({ view }: { view: View }) {
  const { tests, setups } = view.job
  return (
    <section aria-labelledby="plan" className="overflow-x-auto">
      <h2 id="plan" className="mb-2 text-xl font-bold">
        Plan
      </h2>
      <table className="w-full min-w-80 border-collapse">
        <thead>
          <tr className="border-b-2 border-base-content text-left align-bottom">
            <th scope="col" className="py-2 pr-3 font-semibold">
              Test
            </th>
            {setups.map((s) => (
              <th key={s.id} scope="col" className="py-2 pr-3 font-semibold">
                <span className={`flex items-center gap-1.5 ${s.role === 'then' ? 'text-then' : 'text-now'}`}>
                  <SideMark side={s.role === 'then' ? 'then' : 'now'} /> {sideName(s.role)}
                </span>
                <span className="block text-sm font-normal text-secondary">{driveName(driveOf(view, s))}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {tests.map((t) => (
            <tr key={t.id} className="border-b border-base-300 align-top">
              <th scope="row" className="py-3 pr-3 text-left font-semibold">
                {t.name}
                <span className="block text-sm font-normal text-secondary">{parameters(t)}</span>
              </th>
              {setups.map((s) => (
                <td key={s.id} className="py-3 pr-3">
                  <Cell view={view} test={t} setup={s} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

/** parameters says in the trade's terms what a test does. */
function parameters(t: Test): string {
  const w = t.params
  if (w) {
    const how = w.depth === 1 ? 'one at a time' : `${w.depth} at once`
    return `${w.pattern} ${w.op}, ${bytes(w.block_bytes)} blocks, ${how}, over ${bytes(w.span_bytes)}`
  }
  if (t.phases?.length) return t.phases.map((p) => (p.counts === false ? `(${p.name}, not counted)` : p.name)).join(' · ')
  return t.kind
}

function Cell({ view, test, setup }: { view: View; test: Test; setup: Setup }) {
  const cover = coverOf(view, test.id, setup.id)
  const kept = runsOf(view, test.id, setup.id).filter((r) => reasonAside(r) === undefined)
  const missing = missingRuns(view, test, setup.id)
  if (!cover) return null
  const to = test.kind === 'drive' ? measurePath(view.id, setup.id) : test.kind === 'timed' ? timerPath(view.id, setup.id, test.id) : null
  const values = kept.map((r) => figure(r.value, test.unit))
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
      <Dots kept={cover.kept} wanted={cover.wanted} side={setup.role === 'then' ? 'then' : 'now'} />
      <span className="text-sm">
        {cover.kept} of {cover.wanted}
        {cover.aside > 0 && <span className="text-secondary"> · {cover.aside} set aside</span>}
      </span>
      {values.length > 0 && <span className="basis-full text-sm text-secondary">{values.slice(-4).join(' · ')}</span>}
      {to && (
        <Link to={to} className="link text-sm" aria-label={`${missing > 0 ? 'Measure' : 'Measure again'}: ${test.name}, ${sideName(setup.role)}`}>
          {missing > 0 ? (test.kind === 'timed' ? 'Time it' : 'Measure') : 'Once more'}
        </Link>
      )}
    </div>
  )
}

function Dots({ kept, wanted, side }: { kept: number; wanted: number; side: 'then' | 'now' }) {
  const n = Math.max(kept, wanted)
  const fill = side === 'then' ? 'fill-then stroke-then' : 'fill-now stroke-now'
  return (
    <svg width={Math.min(n, 8) * 18} height="16" aria-hidden className="shrink-0">
      {Array.from({ length: Math.min(n, 8) }, (_, i) =>
        side === 'then' ? (
          <rect key={i} x={i * 18 + 2} y="3" width="12" height="10" rx="1.5" strokeWidth="2" className={i < kept ? fill : 'fill-none stroke-base-300'} />
        ) : (
          <circle key={i} cx={i * 18 + 8} cy="8" r="6" strokeWidth="2" className={i < kept ? fill : 'fill-none stroke-base-300'} />
        ),
      )}
    </svg>
  )
}
