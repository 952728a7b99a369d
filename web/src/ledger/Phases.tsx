import type { Row } from '../api/client'
import { figure } from '../ui/format'

/** Phases is where the wait went: each part of it before and after, on one scale. What doesn't count is named and has no bars. */
export function Phases({ row, names }: { row: Row; names: [string, string] }) {
  const phases = row.line.phases ?? []
  if (phases.filter((p) => p.counts).length < 2) return null
  const most = Math.max(...phases.filter((p) => p.counts).flatMap((p) => [p.then, p.with]), 0.01)
  const name = (id: string) => row.test.phases?.find((p) => p.id === id)?.name ?? id
  return (
    <table className="w-full max-w-3xl text-sm">
      <caption className="pb-1 text-left font-bold">Where the wait went</caption>
      <thead className="sr-only">
        <tr>
          <th scope="col">Part</th>
          <th scope="col">{names[0]} and {names[1]}</th>
          <th scope="col">Difference</th>
        </tr>
      </thead>
      <tbody>
        {phases.map((p) => (
          <tr key={p.id} className="border-t border-base-300">
            <th scope="row" className="w-48 py-1.5 pr-3 text-left font-semibold">
              {name(p.id)}
            </th>
            <td className="py-1.5">
              {p.counts ? (
                <>
                  <Bar side="then" name={names[0]} share={p.then / most} said={figure(p.then, 's')} />
                  <Bar side="now" name={names[1]} share={p.with / most} said={figure(p.with, 's')} />
                </>
              ) : (
                <span className="text-secondary">not counted: {figure(p.then, 's')} before, {figure(p.with, 's')} after</span>
              )}
            </td>
            <td className="w-32 py-1.5 pl-3 text-right font-semibold">{p.counts && (p.saves >= 0 ? `${figure(p.saves, 's')} less` : `${figure(-p.saves, 's')} more`)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Bar({ side, name, share, said }: { side: 'then' | 'now'; name: string; share: number; said: string }) {
  return (
    <span className="flex items-center gap-2 leading-tight">
      <span aria-hidden className={`h-2.5 min-w-0.5 rounded-sm ${side === 'then' ? 'bg-then' : 'bg-now'}`} style={{ width: `${share * 70}%` }} />
      <span className={side === 'then' ? 'text-then' : 'text-now'}>
        {name} {said}
      </span>
    </span>
  )
}
