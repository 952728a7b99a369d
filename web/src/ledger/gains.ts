import type { Schemas } from '../api/client'

type Contrast = Schemas['Candidates']['groups'][number]

const named: Record<Contrast['group'], string> = { starts: 'Starts', programs: 'Programs', games: 'Games', files: 'Files', drive: 'The drive' }

const times = (f: number) => `${f < 10 ? f.toPrecision(2) : Math.round(f)} times as fast`

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
