import type { Ledger, Schemas, View } from '../api/client'
import { SideMark } from '../ui/parts'
import { day, facts } from './days'

type Sitting = Schemas['Sitting']

/** Days sets what else was so on the two days of a check-up beside each other: how full and how warm the drive was, and its health. */
export function Days({ view, ledger }: { view: View; ledger: Ledger }) {
  const of = (id: string): Sitting | undefined => view.job.sittings.find((s) => s.id === id) ?? view.job.sittings.filter((s) => s.setup === id).at(-1)
  const first = of(ledger.then.setup)
  const last = of(ledger.with.setup)
  const rows = first && last ? facts(first, last) : []
  if (!first || !last || rows.length === 0) return null
  return (
    <section aria-labelledby="days" className="pt-6">
      <h2 id="days" className="text-xl font-bold">
        The drive on both days
      </h2>
      <table className="mt-1">
        <thead>
          <tr className="text-left">
            <th scope="col" className="py-1 pr-8 font-normal text-secondary">
              What it said
            </th>
            <th scope="col" className="pr-8">
              <SideMark side="then" /> {day(first)}
            </th>
            <th scope="col">
              <SideMark side="now" /> {day(last)}
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.label} className="border-t border-base-300">
              <th scope="row" className="py-1 pr-8 text-left font-normal">
                {r.label}
              </th>
              <td className="pr-8 font-semibold">{r.then}</td>
              <td className={`font-semibold ${r.worse ? 'text-warning' : ''}`}>{r.now}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
