import type { Schemas, View } from '../api/client'
import { useCandidates } from '../api/queries'
import { capacity } from '../ui/format'
import { heldBack } from './Ceilings'
import { gain } from './gains'

type Candidate = Schemas['Candidate']

/** Candidates sets every drive that was tried beside the others, where there are several. */
export function Candidates({ view, onPick }: { view: View; onPick: (setup: string) => void }) {
  const several = view.job.setups.filter((s) => s.role !== 'then').length > 1
  const candidates = useCandidates(view.id, several)
  const list = candidates.data?.list ?? []
  if (list.length < 2) return null
  const rows: [string, (c: Candidate) => string][] = [
    ['Waiting', (c) => c.waiting.words],
    ['A week', (c) => c.savings?.words ?? ''],
    ['The drive by itself', (c) => c.drive_group.words],
    ['Room', (c) => (c.capacity_bytes > 0 ? capacity(c.capacity_bytes) : '')],
    ['Price', (c) => (c.price ? money(c.price.amount, c.price.currency) : '')],
    ['Price per TB', (c) => (c.price && c.capacity_bytes > 0 ? money(Number(c.price.amount) / (c.capacity_bytes / 1e12), c.price.currency) : '')],
    ['Price per second saved at a start', (c) => (c.price && c.saves_a_start ? money(Number(c.price.amount) / c.saves_a_start, c.price.currency) : '')],
    ['Readings', (c) => c.readings.join('; ')],
    ['What limits it', (c) => heldBack(c.ceiling)],
  ]
  const told = rows.filter(([, of]) => list.some((c) => of(c) !== ''))
  return (
    <section aria-labelledby="candidates" className="pt-6">
      <h2 id="candidates" className="text-xl font-bold">
        The candidates, each against Then
      </h2>
      <div className="overflow-x-auto">
        <table className="w-full">
          <thead>
            <tr className="border-b-2 border-base-content align-bottom">
              <th scope="col">
                <span className="sr-only">What</span>
              </th>
              {list.map((c) => (
                <th key={c.setup} scope="col" className="py-1 pr-4 text-left">
                  <button type="button" className="link text-left font-bold text-now" aria-label={`Compare ${nameOf(c)} with Then`} onClick={() => onPick(c.setup)}>
                    {nameOf(c)}
                  </button>
                  <span className="block text-sm font-normal text-secondary">{c.drive}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {told.map(([name, of]) => (
              <tr key={name} className="border-b border-base-300 align-top">
                <th scope="row" className="w-48 py-1.5 pr-4 text-left font-normal">
                  {name}
                </th>
                {list.map((c) => (
                  <td key={c.setup} className="py-1.5 pr-4 font-semibold">
                    {of(c) || <span className="font-normal text-secondary">not known</span>}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {pairs(candidates.data!.groups).map(([a, b, groups]) => (
        <div key={a + b} className="mt-3">
          <h3 className="font-bold">
            {called(list, b)} against {called(list, a)}
          </h3>
          <ul>
            {groups.map((c) => (
              <li key={c.group}>{gain(c, (s) => called(list, s))}</li>
            ))}
          </ul>
        </div>
      ))}
      <ul className="mt-2">
        {candidates.data!.said.map((s) => (
          <li key={s} className="text-lg">
            {s}
          </li>
        ))}
      </ul>
    </section>
  )
}

type Contrast = Schemas['Candidates']['groups'][number]

/** pairs are the contrasts by the two candidates that they set against each other. */
function pairs(groups: Contrast[]): [string, string, Contrast[]][] {
  const list: [string, string, Contrast[]][] = []
  for (const c of groups) {
    const last = list.at(-1)
    if (last?.[0] === c.a && last[1] === c.b) last[2].push(c)
    else list.push([c.a, c.b, [c]])
  }
  return list
}

const called = (list: Candidate[], setup: string) => {
  const c = list.find((of) => of.setup === setup)
  return c ? nameOf(c) : setup
}

const nameOf = (c: Candidate) => (c.role === 'now' ? 'Now' : c.name || 'Trial')

const money = (amount: number | string, currency: string) => `${Number(amount).toFixed(2)} ${currency}`
