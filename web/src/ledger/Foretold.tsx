import type { Ledger, View } from '../api/client'
import { Fold } from '../ui/Fold'
import { figure } from '../ui/format'

/** Foretold compares the forecast of the accepted quote with the measurements. */
export function Foretold({ view, ledger }: { view: View; ledger: Ledger }) {
  const waits = view.job.job.quote?.accepted ? (view.job.job.quote.waits ?? []) : []
  const rows = waits.flatMap((w) => {
    const row = ledger.rows.find((r) => r.test.id === w.test)
    const now = row?.line.with?.centre
    return row ? [{ ...w, name: row.test.name, now }] : []
  })
  if (rows.length === 0) return null
  const measured = rows.filter((r) => r.now !== undefined)
  const held = measured.filter((r) => r.low <= r.now! && r.now! <= r.high).length
  return (
    <Fold title="Forecast and measured" status={measured.length > 0 ? `${held} of ${measured.length} held` : 'not measured yet'} opened>
      <table className="w-full max-w-3xl">
        <thead>
          <tr className="border-b border-base-content text-left">
            <th scope="col">Test</th>
            <th scope="col">Forecast</th>
            <th scope="col">Measured</th>
            <th scope="col">Held</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.test} className="border-b border-base-300">
              <th scope="row" className="py-1 text-left font-normal">
                {r.name}
              </th>
              <td>
                {figure(r.low, 's')} to {figure(r.high, 's')}
              </td>
              <td>{r.now === undefined ? '–' : figure(r.now, 's')}</td>
              <td className="font-semibold">{r.now === undefined ? '–' : r.low <= r.now && r.now <= r.high ? 'yes' : r.now < r.low ? 'faster' : 'slower'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Fold>
  )
}
