import { Link } from 'react-router'
import type { Measuring, View } from '../api/client'
import { onward, closerPath } from '../job/paths'
import { itself, reasonAside, runsOf } from '../job/view'
import { figure } from '../ui/format'
import { Refusal } from '../ui/parts'

const headings: Record<string, string> = { done: 'Measured', cancelled: 'Cancelled', failed: 'Stopped early' }

/** Outcome is the result of the last round. */
export function Outcome({ view, m }: { view: View; m: Measuring }) {
  const tests = view.job.tests.filter((t) => itself(view, t) && runsOf(view, t.id, m.setup).length > 0)
  return (
    <section aria-label="Outcome" className="flex flex-col gap-3">
      <h2 className="text-2xl font-bold">
        <span aria-live="polite">
          {headings[m.state] ?? m.state}: {m.kept} of {m.of} runs saved.
        </span>
      </h2>
      {view.doubts
        .filter((d) => d.setup === m.setup)
        .map((d) => (
          <p key={d.what} role="alert" className="border-l-4 border-warning pl-3 font-semibold">
            {d.what}
          </p>
        ))}
      {m.cleared && <p className="text-secondary">{m.cleared}</p>}
      {m.refusal && <Refusal error={m.refusal} />}
      {tests.length > 0 && (
        <div className="overflow-x-auto">
          <table className="w-full min-w-96">
            <thead>
              <tr className="border-b-2 border-base-content text-left">
                <th scope="col" className="py-1 pr-4">
                  Test
                </th>
                <th scope="col" className="py-1 pr-4">
                  Runs
                </th>
                <th scope="col" className="py-1 text-right">
                  Precision; latency
                </th>
              </tr>
            </thead>
            <tbody>
              {tests.map((t) => {
                const all = runsOf(view, t.id, m.setup)
                const runs = all.filter((r) => !r.repeat)
                const again = all.filter((r) => r.repeat).at(-1)
                const last = runs.at(-1)?.latency
                return (
                  <tr key={t.id} className="border-b border-base-300">
                    <th scope="row" className="py-2 pr-4 text-left font-semibold">
                      <Link className="link" to={closerPath(view.id, t.id)}>
                        {t.name}
                      </Link>
                    </th>
                    <td className="py-2 pr-4 text-lg">
                      {runs.map((r, i) => (
                        <span key={r.id} className={reasonAside(r) ? 'line-through' : ''}>
                          {i > 0 && ' · '}
                          {figure(r.value, '').trim()}
                        </span>
                      ))}{' '}
                      {t.unit}
                      {again && <span className="block text-sm text-secondary">repeated at the end as a drift check: {figure(again.value, t.unit)}</span>}
                    </td>
                    <td className="py-2 text-right text-sm">
                      {runs.at(-1)?.half_width_pct !== undefined && `precise to ± ${runs.at(-1)!.half_width_pct!.toPrecision(2)} % within the run; `}
                      {last && `${figure(last.median_ms, 'ms')} (median), ${figure(last.p99_ms, 'ms')} (99 of 100)`}
                    </td>
                  </tr>
                )
              })}
            </tbody>
          </table>
        </div>
      )}
      {m.refusal?.fields?.dir === undefined && (
        <Link className="btn btn-primary self-start" to={onward(view, m.setup)}>
          Back to the job
        </Link>
      )}
    </section>
  )
}
