import type { Schemas } from '../api/client'

type Contrast = Schemas['Candidates']['groups'][number]

const named: Record<Contrast['group'], string> = { starts: 'Starts', programs: 'Programs', games: 'Games', files: 'Files', drive: 'The drive' }

const number = (f: number) => (f < 10 ? f.toPrecision(2) : String(Math.round(f)))

const times = (f: number) => `${number(f)} times as fast`

/** week is what one saves in a week, said as people say it. */
function week(seconds: number | null): string {
  if (seconds === null || Math.abs(seconds) < 30) return ''
  const m = Math.abs(seconds) / 60
  return `, about ${m < 1.5 ? 'a minute' : `${Math.round(m)} minutes`} a week`
}

/** gain says what one candidate brings against another in a group of tests, and no more than holds. */
export function gain(c: Contrast, name: (setup: string) => string): string {
  const group = named[c.group]
  if (c.verdict === 'equal') return `${group}: no difference.`
  if (!c.holds || c.factor === null) return `${group}: not certain.`
  const better = c.verdict === 'faster'
  return `${group}: ${name(better ? c.b : c.a)} is ${times(better ? c.factor : 1 / c.factor)}${week(c.seconds_per_week)}.`
}

type Cell = Schemas['Candidates']['table']['rows'][number]['cells'][number]

/** againstBase says how a drive does in one test against the base, and no more than holds. */
export function againstBase(c: Cell): string {
  if (c.verdict === 'not-measured') return 'base not measured'
  if (c.verdict === 'not-comparable') return 'not comparable'
  if (c.equal) return 'practically the same'
  if (c.verdict === 'too-close' || c.factor === null) return c.verdict === 'too-close' ? 'too close to call' : c.verdict
  const factor = c.verdict === 'faster' ? times(c.factor) : `takes ${number(1 / c.factor)} times as long`
  return c.single ? `${factor}, measured once` : c.holds ? factor : `${factor}, not certain`
}
