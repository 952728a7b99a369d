import type { Schemas } from '../api/client'

type Told = Schemas['Forecast']
type Candidate = Told['candidates'][number]
type Wait = Candidate['waits'][number]

const seconds = (s: number) => (s < 10 ? s.toFixed(1) : s < 120 ? s.toFixed(0) : `${(s / 60).toFixed(1)}`)

const unit = (s: number) => (s < 120 ? 's' : 'min')

/** range says the wait to expect, as an 80 % range, beside today's where it was measured. */
export function range(w: Wait): string {
  const same = unit(w.now_low) === unit(w.now_high)
  const now = `${seconds(w.now_low)}${same ? '' : ` ${unit(w.now_low)}`} to ${seconds(w.now_high)} ${unit(w.now_high)}`
  return w.then === null ? now : `${now} instead of ${seconds(w.then)} ${unit(w.then)}`
}

const hours = (h: number) => (Math.abs(h) < 9.95 ? h.toFixed(1) : h.toFixed(0))

/** years says what a candidate saves in a year and when it pays for itself; '' if neither is known. */
export function years(c: Candidate): string {
  const said: string[] = []
  const h = c.hours_per_year
  if (h) said.push(h.low > 0 ? `Saves ${hours(h.low)} to ${hours(h.high)} hours a year.` : 'No clear saving of time.')
  const p = c.payback_weeks
  if (p) said.push(`It pays for itself in ${Math.round(p.low)} to ${Math.round(p.high)} weeks.`)
  return said.join(' ')
}

/** unsaid are the tests without a forecast for any candidate, by reason. */
export function unsaid(f: Told): { why: string; tests: string[] }[] {
  const told = new Set(f.candidates.flatMap((c) => c.waits.map((w) => w.test)))
  const by = new Map<string, string[]>()
  for (const r of f.refused) if (!told.has(r.test)) by.set(r.why, [...(by.get(r.why) ?? []), r.test])
  return [...by].map(([why, tests]) => ({ why, tests }))
}

/** record says how often such forecasts were right. */
export function record(r: Told['record']): string {
  if (r.share === null) return 'These are 80 % ranges. How often such forecasts were right is not known yet.'
  return `These are 80 % ranges. ${r.held} of ${r.forecasts} such forecasts were right (${Math.round(r.share * 100)} %).`
}

/** causes says that something other than the drive may be what the computer waits for. */
export function causes(list: Told['other_cause']): string[] {
  const words: Record<string, string> = {
    'processor-busy': 'Another cause is likely: the processor was busy while Then was measured.',
    'memory-full': 'Another cause is likely: the memory was full while Then was measured.',
    'drive-share-small': 'Another cause is likely: the drive has a small share of these waits.',
  }
  return list.map((c) => words[c] ?? c)
}
