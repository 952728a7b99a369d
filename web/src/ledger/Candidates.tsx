import type { Schemas, View } from '../api/client'
import { useAmendJob } from '../intake/queries'
import { useCandidates } from './queries'
import { setupName } from '../job/view'
import { capacity, day } from '../ui/format'
import { Refusal } from '../ui/parts'
import { heldBack } from './Ceilings'
import { gains } from './gains'

type Candidate = Schemas['Candidate']

/** Candidates compares the drives tried in an upgrade, if there are several. */
export function Candidates({ view, onPick }: { view: View; onPick: (setup: string) => void }) {
  const several = view.job.setups.filter((s) => s.role !== 'then').length > 1
  const candidates = useCandidates(view.id, several)
  const list = candidates.data?.list ?? []
  if (list.length < 2) return null
  return (
    <section aria-labelledby="candidates" className="pt-6">
      <h2 id="candidates" className="text-xl font-bold">
        The drives that were tried, each against Then
      </h2>
      <Facts list={list} onPick={onPick} />
      <Gains of={candidates.data!} />
      <WhyItStays view={view} />
    </section>
  )
}

/** Facts are what is known of each drive beside the others. */
export function Facts({ list, base, onPick }: { list: Candidate[]; base?: string; onPick?: (setup: string) => void }) {
  const rows: [string, (c: Candidate) => string][] = [
    ['Waiting', (c) => c.waiting.words],
    ['A week', (c) => c.savings?.words ?? ''],
    ['The drive alone', (c) => c.drive_group.words],
    ['Rated', (c) => rated(c)],
    ['Capacity', (c) => (c.capacity_bytes > 0 ? capacity(c.capacity_bytes) : '')],
    ['Rotation speed', (c) => (c.rpm > 0 ? `${c.rpm.toLocaleString('en')} rpm` : '')],
    ['Port', (c) => portNames[c.port] ?? c.port],
    ['Price', (c) => (c.price ? `${money(c.price.amount, c.price.currency)}${c.price.at ? `, ${day(c.price.at)}` : ''}` : '')],
    ['Price per TB', (c) => (c.price && c.capacity_bytes > 0 ? money(Number(c.price.amount) / (c.capacity_bytes / 1e12), c.price.currency) : '')],
    ['Price per second saved at each start', (c) => (c.price && c.saves_a_start && c.saves_a_start > 0 ? money(Number(c.price.amount) / c.saves_a_start, c.price.currency) : '')],
    ['Readings', (c) => c.readings.join('; ')],
    ['Limits', (c) => heldBack(c.ceiling)],
  ]
  const told = rows.filter(([, of]) => list.some((c) => of(c) !== ''))
  return (
    <div className="mt-3 overflow-x-auto" tabIndex={0} role="region" aria-label="The drives">
      <table className="w-full">
        <thead>
          <tr className="border-b-2 border-base-content align-bottom">
            <th scope="col">
              <span className="sr-only">What</span>
            </th>
            {list.map((c) => (
              <th key={c.setup} scope="col" className="py-1 pr-4 text-left">
                {onPick ? (
                  <button type="button" className="link text-left font-bold text-now" aria-label={`Compare ${nameOf(c)} with Then`} onClick={() => onPick(c.setup)}>
                    {nameOf(c)}
                  </button>
                ) : (
                  nameOf(c)
                )}
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
                  {of(c) || <span className="font-normal text-secondary">{c.setup === base && against.includes(name) ? 'base' : 'not known'}</span>}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

/** Gains are the differences between each pair of drives, by use. */
export function Gains({ of }: { of: Schemas['Candidates'] }) {
  return (
    <>
      {pairs(of.groups).map(([a, b, groups]) => (
        <div key={a + b} className="mt-3">
          <h3 className="font-bold">
            {called(of.list, b)} against {called(of.list, a)}
          </h3>
          <ul>
            {gains(groups, (s) => called(of.list, s)).map((s) => (
              <li key={s}>{s}</li>
            ))}
          </ul>
        </div>
      ))}
      <ul className="mt-2">
        {of.said.map((s) => (
          <li key={s} className="text-lg">
            {s}
          </li>
        ))}
      </ul>
    </>
  )
}

/** WhyItStays is the technician's sentence on why one of several drives stays; it goes into the report. */
function WhyItStays({ view }: { view: View }) {
  const amend = useAmendJob(view.id)
  const stays = view.job.setups.find((s) => s.id === view.job.job.stays)
  if (!stays) return null
  return (
    <div className="mt-3 max-w-xl">
      <label className="text-sm font-semibold">
        Why {setupName(stays)} stays (goes into the report)
        <input
          className="input mt-1 w-full"
          maxLength={500}
          defaultValue={view.job.job.stays_why ?? ''}
          onBlur={(e) => e.target.value.trim() !== (view.job.job.stays_why ?? '') && amend.run({ stays_why: e.target.value })}
        />
      </label>
      {amend.error && <Refusal error={amend.error} />}
    </div>
  )
}

/** against are the rows that compare a drive with the base. */
const against = ['Waiting', 'A week', 'The drive alone', 'Price per second saved at each start']

const portNames: Record<string, string> = { sata: 'SATA', m2: 'M.2', usb: 'USB', mmc: 'eMMC', pcie: 'PCIe' }

/** rated are the maker's figures beside what was measured. */
function rated({ ceiling: c }: Candidate): string {
  const one = (verb: string, of: number | null, measured: number | null) => (of ? `${verb} ${Math.round(of)} MB/s${measured ? `, measured ${Math.round(measured)}` : ''}` : '')
  return [one('reads', c.rated_read, c.measured_read), one('writes', c.rated_write, c.measured_write)].filter(Boolean).join('; ')
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

export const nameOf = (c: Candidate) => (c.role === 'now' ? 'Now' : c.name || 'Trial')

const money = (amount: number | string, currency: string) => `${Number(amount).toFixed(2)} ${currency}`
