import { useState } from 'react'
import { Link } from 'react-router'
import type { Setup, Test, View } from '../api/client'
import { plain } from '../measure/words'
import { bytes, figure } from '../ui/format'
import { SideMark } from '../ui/parts'
import { Budget } from './Budget'
import { CellForms } from './CellForms'
import { EditPlan } from './EditPlan'
import { TakeTable } from './TakeTable'
import { measurePath } from './paths'
import { OpenTimer } from '../timer/OpenTimer'
import { byHand, coverOf, driveName, driveOf, missingRuns, reasonAside, runsOf, setupName } from './view'

/** PlanTable is the plan: every test with what is done of it on every setup. */
export function PlanTable({ view }: { view: View }) {
  const [editing, setEditing] = useState(false)
  const { tests, setups } = view.job
  return (
    <section aria-labelledby="plan">
      <div className="mb-2 flex flex-wrap items-baseline gap-x-4">
        <h2 id="plan" className="text-xl font-bold">
          Plan
        </h2>
        <button type="button" className="link text-sm" aria-expanded={editing} onClick={() => setEditing(!editing)}>
          {editing ? 'Close the plan' : 'Change the plan'}
        </button>
      </div>
      <Budget view={view} />
      {editing && <EditPlan view={view} />}
      <div className="overflow-x-auto">
        <table className="w-full min-w-80 border-collapse">
          <thead>
            <tr className="border-b-2 border-base-content text-left align-bottom">
              <th scope="col" className="py-2 pr-3 font-semibold">
                Test
              </th>
              {setups.map((s) => (
                <th key={s.id} scope="col" className="py-2 pr-3 font-semibold">
                  <span className={`flex items-center gap-1.5 ${s.role === 'then' ? 'text-then' : s.role === 'now' ? 'text-now' : ''}`}>
                    {s.role !== 'trial' && <SideMark side={s.role} />} {setupName(s)}
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
                  {t.retired && <span className="font-normal text-secondary"> (removed)</span>}
                  {t.replaces && <span className="font-normal text-secondary"> (changed)</span>}
                  <span className="block text-sm font-normal text-secondary max-sm:hidden">{parameters(view, t)}</span>
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
      </div>
      <div className="pt-3">
        <TakeTable view={view} />
      </div>
    </section>
  )
}

/** parameters says what a test does: in plain words where the program does it, else how it is measured. */
function parameters(v: View, t: Test): string {
  const words = plain(t)
  if (t.params?.stop_half_width && !t.params.existing) return `${words.slice(0, -1)}, over ${bytes(t.params.span_bytes)}.`
  if (words) return words
  if (t.phases?.length) return t.phases.map((p) => (p.counts === false ? `(${p.name}, not counted)` : p.name)).join(' · ')
  return [t.warmth, byHand(v, t) ? 'timed by hand' : 'read off', t.content].filter(Boolean).join(', ')
}

function Cell({ view, test, setup }: { view: View; test: Test; setup: Setup }) {
  const cover = coverOf(view, test.id, setup.id)
  if (!cover) return null
  const kept = runsOf(view, test.id, setup.id).filter((r) => reasonAside(r) === undefined)
  const missing = missingRuns(view, test, setup.id)
  const what = { 'aria-label': `${missing > 0 ? 'Measure' : 'Measure again'}: ${test.name}, ${setupName(setup)}` }
  const values = kept.map((r) => figure(r.value, test.unit))
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
      {cover.cannot ? (
        <span className="basis-full text-sm">Can’t be measured: {cover.cannot}</span>
      ) : (
        <>
          {cover.wanted > 0 && <Dots kept={cover.kept} wanted={cover.wanted} side={setup.role === 'then' ? 'then' : 'now'} />}
          <span className="text-sm">
            {cover.wanted > 0 ? `${cover.kept} of ${cover.wanted}` : `${cover.kept} runs`}
            {cover.enough && <span className="font-semibold">{missing > 0 ? ' · enough already' : ' · enough'}</span>}
            {cover.aside > 0 && <span className="text-secondary"> · {cover.aside} set aside</span>}
          </span>
        </>
      )}
      {missing > 0 && cover.hint && <span className="basis-full text-sm">{cover.hint}</span>}
      {values.length > 0 && <span className="basis-full text-sm text-secondary">{values.slice(-4).join(' · ')}</span>}
      {!test.retired && !cover.cannot && cover.automatic && (
        <Link to={measurePath(view.id, setup.id)} className="link text-sm" {...what}>
          {missing > 0 ? 'Measure' : 'Measure again'}
        </Link>
      )}
      {!test.retired && !cover.cannot && !cover.automatic && byHand(view, test) && (
        <OpenTimer view={view} setup={setup.id} test={test.id} size="sm" {...what}>
          {missing > 0 ? 'Time it' : 'Time again'}
        </OpenTimer>
      )}
      {!test.retired && <CellForms view={view} test={test} setup={setup} cannot={cover.cannot} done={missing === 0} />}
    </div>
  )
}

function Dots({ kept, wanted, side }: { kept: number; wanted: number; side: 'then' | 'now' }) {
  const n = Math.min(Math.max(kept, wanted), 8)
  const fill = side === 'then' ? 'fill-then stroke-then' : 'fill-now stroke-now'
  return (
    <svg width={n * 18} height="16" aria-hidden className="shrink-0">
      {Array.from({ length: n }, (_, i) => {
        const paint = i < kept ? fill : 'fill-none stroke-base-300'
        return side === 'then' ? (
          <rect key={i} x={i * 18 + 2} y="3" width="12" height="10" rx="1.5" strokeWidth="2" className={paint} />
        ) : (
          <circle key={i} cx={i * 18 + 8} cy="8" r="6" strokeWidth="2" className={paint} />
        )
      })}
    </svg>
  )
}
