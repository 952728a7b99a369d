import { scaleLinear, scaleLog } from 'd3-scale'
import type { Row } from '../api/client'

/** Axis is the one scale on which all lines of a group are drawn, in shares of its width. */
export type Axis = { unit: string; log: boolean; ticks: { at: number; label: string }[]; at: (value: number) => number }

/** Group are lines that belong together and share a scale. */
export type Group = {
  id: string
  title: string
  /** together: what the group and those that are counted with it come to is at this one, the first of them. */
  together?: 'waiting' | 'drive'
  /** about is said once, over the first of the groups that it holds for. */
  about?: string
  rows: Row[]
  axis: Axis
}

const kinds: { id: Row['group']; title: string; of?: 'waiting' | 'drive'; about: string }[] = [
  { id: 'starts', title: 'Starts', of: 'waiting', about: 'what the customer feels' },
  { id: 'programs', title: 'Programs', of: 'waiting', about: 'what the customer feels' },
  { id: 'games', title: 'Games', of: 'waiting', about: 'what the customer feels' },
  { id: 'files', title: 'Files', of: 'waiting', about: 'what the customer feels' },
  { id: 'drive', title: 'The drive', of: 'drive', about: 'what the drive can do, not what is felt' },
  { id: 'controls', title: 'Controls', about: 'unaffected by the drive' },
  { id: 'notes', title: 'Readings', about: 'compared with nothing else' },
]

/** groupsOf are a ledger's lines by what is felt; lines in another unit get a scale of their own. */
export function groupsOf(rows: Row[]): Group[] {
  const told = new Set<string>()
  return kinds.flatMap((k) => {
    const own = rows.filter((r) => r.group === k.id)
    const units = [...new Set(own.map((r) => r.test.unit))]
    return units.map((unit, i) => {
      const mine = own.filter((r) => r.test.unit === unit)
      const together = k.of && !told.has(k.of) ? k.of : undefined
      if (together) told.add(together)
      return { id: `${k.id}-${unit}`, title: i === 0 ? k.title : `${k.title}, in ${unit}`, together, about: i === 0 && (together || !k.of) ? k.about : undefined, rows: mine, axis: axisOf(mine, unit) }
    })
  })
}

/** spans is by how much rates differ from which on their scale is logarithmic. */
const spans = 10

/** leastApart is how far apart two labels of ticks are at least, as a share of the width. */
const leastApart = 0.15

/**
 * axisOf is the scale of lines in one unit: linear for times, from 0; logarithmic for what else spans more than tenfold. Figures
 * that cannot be on it (none, or 0 on a logarithmic one) are at its edge.
 */
export function axisOf(rows: Row[], unit: string): Axis {
  const values = rows.flatMap((r) => [...r.then_runs, ...r.with_runs].map((x) => x.value)).filter((v) => Number.isFinite(v) && v >= 0)
  const high = Math.max(...values, Number.MIN_VALUE)
  const above = values.filter((v) => v > 0)
  const low = Math.min(...above, high)
  const log = unit !== 's' && above.length > 1 && high / low > spans
  const scale = log ? scaleLog([low / 1.5, high * 1.25], [0, 1]).clamp(true) : scaleLinear([0, high * 1.04], [0, 1]).clamp(true)
  const at = (v: number) => {
    const x = log && v <= 0 ? 0 : scale(v)
    return Number.isFinite(x) ? x : 0
  }
  const all = (log ? scale.ticks(5).filter((t) => /^[125]0*(\.0+)?$/.test(String(Number(t.toPrecision(6)))) || /^0\.0*[125]$/.test(String(Number(t.toPrecision(6))))) : scale.ticks(6)).filter((t) => Number.isFinite(at(t)))
  const ticks: Axis['ticks'] = []
  for (const t of all) {
    const last = ticks.at(-1)
    if (last && at(t) - last.at < leastApart) continue
    ticks.push({ at: at(t), label: Number(t.toPrecision(6)).toLocaleString('en', { maximumSignificantDigits: 6 }) })
  }
  return { unit, log, ticks, at }
}

export type Tally = { clean: number; caveat: number; single: number; blocked: number; undecided: number; missing: number }

/** tallyOf counts how much of a comparison is clean, qualified, from a single run, blocked, not yet decided and not measured; each line once. */
export function tallyOf(rows: Row[], effects: Map<string, Set<string>>): Tally {
  const t: Tally = { clean: 0, caveat: 0, single: 0, blocked: 0, undecided: 0, missing: 0 }
  for (const r of rows) {
    const kind: keyof Tally =
      r.line.verdict === 'not-measured'
        ? 'missing'
        : r.line.verdict === 'not-comparable'
          ? 'blocked'
          : r.line.verdict === 'too-close' && !r.line.equal && r.test.kind !== 'control' && r.test.kind !== 'note'
            ? 'undecided'
            : effects.get(r.test.id)?.has('qualifies')
              ? 'caveat'
              : r.line.indicative && r.test.kind !== 'note'
                ? 'single'
                : 'clean'
    t[kind]++
  }
  return t
}

const lines = (n: number) => (n === 1 ? '1 line' : `${n} lines`)

/** tallyInWords says a tally, what is good first. */
export const tallyInWords = (t: Tally) =>
  [
    t.clean > 0 && `${lines(t.clean)} clean`,
    t.caveat > 0 && `${lines(t.caveat)} with a caveat`,
    t.single > 0 && `${lines(t.single)} from a single run`,
    t.blocked > 0 && `${lines(t.blocked)} not comparable`,
    t.undecided > 0 && `${lines(t.undecided)} too close to call`,
    t.missing > 0 && `${lines(t.missing)} without a side`,
  ]
    .filter(Boolean)
    .join(' · ')
