import { reasonAside } from '../job/view'
import type { Schemas } from '../api/client'
import type { Curve, Point, Side } from '../ui/plotted'
import { bytes, figure } from '../ui/format'

export type CloserRun = Schemas['CloserRun']

/** kept are the runs that take part, in their order. */
export const kept = (runs: CloserRun[]) => runs.filter((r) => reasonAside(r) === undefined)

/** middle is the kept run whose value is in the middle: the one to look at. */
export function middle(runs: CloserRun[]): CloserRun | undefined {
  const list = kept(runs).toSorted((a, b) => a.value - b.value)
  return list[Math.floor((list.length - 1) / 2)]
}

/** shareOf turns a distribution into points: the lower bound of each class in ms, and its share of the requests in %. */
export function shareOf(s: NonNullable<NonNullable<CloserRun['latency']>['spread']>): Point[] {
  const all = s.counts.reduce((a, b) => a + b, 0) || 1
  const edge = (i: number) => s.from_ms * 10 ** (i / s.per_decade)
  const points = s.counts.map((n, i): Point => [edge(i), (n / all) * 100])
  return [...points, [edge(s.counts.length), 0]]
}

/** curvesOf draws every kept run of a side, the middle one strong. */
export function curvesOf(of: { side: Side; name: string; trial?: boolean; runs: CloserRun[] }, points: (r: CloserRun) => Point[] | undefined, filled = false): Curve[] {
  const strong = middle(of.runs)
  return kept(of.runs)
    .map((r): Curve | undefined => {
      const p = points(r)
      return p?.length ? { id: r.id, side: of.side, name: of.name, dashed: of.trial, points: p, faint: r.id !== strong?.id, filled: filled && r.id === strong?.id } : undefined
    })
    .filter((c) => c !== undefined)
    .toSorted((a, b) => Number(b.faint ?? false) - Number(a.faint ?? false))
}

/** cliffInWords says where sustained writing fell, and why. */
export function cliffInWords(r: CloserRun): string {
  const c = r.cliff
  if (c) {
    const why = c.cause === 'heat' ? 'it throttled because of heat' : 'its write cache was used up'
    return `After ${c.after_s} s and ${(c.after_bytes / 1e9).toPrecision(3)} GB it fell from ${figure(c.before_mb_s, 'MB/s')} to ${figure(c.after_mb_s, 'MB/s')}: ${why}.`
  }
  return `It kept its rate over ${bytes(r.bytes ?? 0)}: no fall of 30 % or more.`
}

/** tiersInWords says which of two tiers answered how much. */
export function tiersInWords(r: CloserRun): string {
  const t = r.tiers
  if (!t) return ''
  const part = (share: number, ms: number) => `${Math.round(share * 100)} % in about ${figure(ms, 'ms')}`
  return `Two tiers answered: ${part(t.quick_share, t.quick_ms)}, ${part(t.slow_share, t.slow_ms)}. A file that was just laid out may sit in the quick one.`
}

const verdicts = { 'keeps-up': 'It keeps up', just: 'It just keeps up', 'falls-behind': 'It does not keep up' }

/** keepUpInWords says whether the drive keeps up. */
export function keepUpInWords(r: CloserRun): string {
  const k = r.keep_up
  if (!k) return ''
  return `${verdicts[k.verdict]}: ${figure(k.need_mb_s, 'MB/s')} are needed, and its slowest second wrote ${figure(r.value, 'MB/s')}, ${k.margin.toFixed(2)} times that.`
}

/** endings say why a drive test ended. */
export const endings: Record<string, string> = {
  time: 'stopped at the time limit',
  bytes: 'stopped at the size limit',
  sure: 'stopped once it was precise enough',
  heat: 'ended because the drive reached its temperature limit',
  error: 'ended by an error of the drive',
}
