import { useState } from 'react'
import type { Schemas, View } from '../api/client'
import { useCandidates } from './queries'
import { day, figure } from '../ui/format'
import { Query } from '../ui/parts'
import { Facts, Gains, nameOf } from './Candidates'
import { againstBase } from './gains'

type Candidates = Schemas['Candidates']
type Cell = Candidates['table']['rows'][number]['cells'][number]

/** DriveTable is the result of a comparison: every test beside every drive, each against the base, which can be any of them. */
export function DriveTable({ view }: { view: View }) {
  const [base, setBase] = useState<string>()
  const candidates = useCandidates(view.id, true, base)
  return (
    <Query of={candidates} what="the comparison">
      {(c) => <Drawn view={view} of={c} onBase={setBase} />}
    </Query>
  )
}

function Drawn({ view, of, onBase }: { view: View; of: Candidates; onBase: (setup: string) => void }) {
  const { list, table, tests } = of
  if (list.length === 0) return <p>No drive is measured yet.</p>
  return (
    <>
      <label className="flex flex-wrap items-center gap-2 text-sm font-semibold">
        Compare with
        <select className="select w-72" value={table.base} onChange={(e) => onBase(e.target.value)}>
          {view.job.setups.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name || s.id}
            </option>
          ))}
        </select>
      </label>
      <div className="mt-3 overflow-x-auto" tabIndex={0} role="region" aria-label="Tests by drive">
        <table className="w-full">
          <thead>
            <tr className="border-b-2 border-base-content align-bottom">
              <th scope="col" className="py-1 text-left font-normal">
                Test
              </th>
              {list.map((c) => (
                <th key={c.setup} scope="col" className="min-w-36 py-1 pr-3 text-left font-bold">
                  {nameOf(c)} {c.setup === table.base && <span className="block text-sm font-normal text-secondary">base</span>}
                  {c.measured.length > 0 && <span className="block text-sm font-normal text-secondary">{c.measured.map(day).join(', ')}</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.map((r) => {
              const t = tests.find((x) => x.id === r.test)!
              return (
                <tr key={r.test} className="border-b border-base-300 align-top">
                  <th scope="row" className="min-w-44 py-1.5 pr-3 text-left font-normal">
                    {t.name}
                  </th>
                  {r.cells.map((c) => (
                    <td key={c.setup} className="py-1.5 pr-3">
                      <CellWords cell={c} unit={t.unit} base={c.setup === table.base} />
                    </td>
                  ))}
                </tr>
              )
            })}
          </tbody>
        </table>
      </div>
      <h2 className="pt-4 text-xl font-bold">Drive against drive</h2>
      <Gains of={of} />
      <h2 className="pt-4 text-xl font-bold">The drives</h2>
      <Facts list={list} base={table.base} />
    </>
  )
}

function CellWords({ cell: c, unit, base }: { cell: Cell; unit: string; base: boolean }) {
  if (c.centre === null) return <span className="text-secondary">not measured</span>
  return (
    <>
      <strong className="text-lg">
        {c.bound === 'above' ? '> ' : c.bound === 'below' ? '< ' : ''}
        {figure(c.centre, unit)}
      </strong>
      {c.low !== null && c.high !== null && (
        <span className="block text-sm text-secondary">
          {figure(c.low, unit).replace(` ${unit}`, '')} to {figure(c.high, unit)}
        </span>
      )}
      {!base && <span className="block text-sm">{againstBase(c)}</span>}
    </>
  )
}
