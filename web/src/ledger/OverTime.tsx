import { Link } from 'react-router'
import type { Ledger, View } from '../api/client'
import { setupName, setupOf, testOf } from '../job/view'
import { day, figure } from '../ui/format'

/** OverTime shows a setup's figures over months: has it slowed down, filled up, become warmer. */
export function OverTime({ view, ledger }: { view: View; ledger: Ledger }) {
  return ledger.over_time.map((c) => {
    const setup = setupOf(view, c.setup)
    const first = c.sittings[0]
    const last = c.sittings.at(-1)
    if (!setup || !first || !last) return null
    const known = (of: 'fill_pct' | 'temp_c') => c.sittings.some((s) => s[of] !== null)
    return (
      <section key={c.setup} aria-labelledby={`time-${c.setup}`} className="pt-6">
        <div className="flex flex-wrap items-baseline gap-x-4">
          <h2 id={`time-${c.setup}`} className="mr-auto text-xl font-bold">
            Over time: {setupName(setup)}
          </h2>
          <Link className="btn btn-sm" to={`?then=${first.id}&with=${last.id}`}>
            Compare first and last
          </Link>
        </div>
        <div className="overflow-x-auto">
          <table className="w-full">
            <thead>
              <tr className="border-b border-base-content">
                <th scope="col" className="py-1 text-left">
                  The middle of each session’s runs
                </th>
                {c.sittings.map((s) => (
                  <th key={s.id} scope="col" className="pl-4 text-right whitespace-nowrap">
                    {day(s.started)}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {c.tests.map((t) => (
                <Row key={t.test} name={testOf(view, t.test)?.name ?? t.test} cells={t.centres.map((v) => (v === null ? '' : figure(v, testOf(view, t.test)?.unit ?? '')))} />
              ))}
              {known('fill_pct') && <Row name="How full it was" cells={c.sittings.map((s) => (s.fill_pct === null ? '' : `${Math.round(s.fill_pct)} %`))} />}
              {known('temp_c') && <Row name="The drive as it began" cells={c.sittings.map((s) => (s.temp_c === null ? '' : `${Math.round(s.temp_c)} °C`))} />}
            </tbody>
          </table>
        </div>
      </section>
    )
  })
}

function Row({ name, cells }: { name: string; cells: string[] }) {
  return (
    <tr className="border-b border-base-300">
      <th scope="row" className="py-1 text-left font-normal">
        {name}
      </th>
      {cells.map((c, i) => (
        <td key={i} className="pl-4 text-right font-semibold whitespace-nowrap">
          {c || <span className="font-normal text-secondary">not measured</span>}
        </td>
      ))}
    </tr>
  )
}
