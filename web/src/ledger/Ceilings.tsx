import type { Ledger } from '../api/client'
import { figure } from '../ui/format'
import { Fold } from '../ui/Fold'
import { SideMark } from '../ui/parts'

type Ceiling = Ledger['then']['ceiling']

/** Ceilings sets what each drive is rated for, what its link carries and what was measured on one scale. */
export function Ceilings({ ledger, names }: { ledger: Ledger; names: [string, string] }) {
  const sides = [
    { side: 'then' as const, name: names[0], facet: ledger.then },
    { side: 'now' as const, name: names[1], facet: ledger.with },
  ].filter((s) => known(s.facet.ceiling))
  if (sides.length === 0) return null
  const most = Math.max(...sides.flatMap((s) => Object.values(s.facet.ceiling).filter((v) => v !== null)))
  return (
    <div className="mt-6">
      <Fold title="Ceilings" status="what limits each drive">
        <p className="text-secondary">The limit of each drive: its own rating, or its link. MB/s.</p>
        <div className="mt-2 grid gap-x-8 gap-y-4 md:grid-cols-2">
          {sides.map((s) => (
            <div key={s.side}>
              <p className="flex items-center gap-2 font-bold">
                <SideMark side={s.side} /> {s.name} <span className="font-normal text-secondary">{s.facet.drive}</span>
              </p>
              <table className="w-full">
                <tbody>
                  {bars(s.facet.ceiling).map((b) => (
                    <tr key={b.label}>
                      <th scope="row" className="w-44 py-0.5 text-left font-normal">
                        {b.label}
                      </th>
                      <td className="w-24 text-right font-semibold whitespace-nowrap">{figure(b.value, '').trim()}</td>
                      <td className="pl-3" aria-hidden>
                        <svg width="100%" height="12" className="block">
                          <rect width={`${(b.value / most) * 100}%`} height="12" rx="1" className={b.measured ? (s.side === 'then' ? 'fill-then' : 'fill-now') : 'fill-base-300'} />
                        </svg>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <p className="mt-1 text-sm">{heldBack(s.facet.ceiling)}</p>
            </div>
          ))}
        </div>
      </Fold>
    </div>
  )
}

const known = (c: Ceiling) => (c.rated_read ?? c.rated_write ?? c.link) !== null

const bars = (c: Ceiling) =>
  [
    { label: 'The link carries', value: c.link, measured: false },
    { label: 'Drive and port could', value: c.capable, measured: false },
    { label: 'Rated reading', value: c.rated_read, measured: false },
    { label: 'Measured reading', value: c.measured_read, measured: true },
    { label: 'Rated writing', value: c.rated_write, measured: false },
    { label: 'Measured writing', value: c.measured_write, measured: true },
  ].filter((b): b is { label: string; value: number; measured: boolean } => b.value !== null)

/** heldBack says which ceiling is the lowest, as far as they are known. */
export function heldBack(c: Ceiling): string {
  if (c.link === null || c.rated_read === null) return c.link === null ? 'The link is not known.' : 'The drive’s rating is not known.'
  if (c.link < c.rated_read && c.capable === null) return 'The link is the ceiling. Whether drive and port could do more is not known.'
  if (c.link < c.rated_read) return c.capable! > c.link ? 'The link is the ceiling: drive and port could do more. Check the port, the cable and the firmware setting.' : 'The link is the ceiling: a faster drive would gain nothing on this port.'
  return 'The drive itself is the ceiling, not the link.'
}
