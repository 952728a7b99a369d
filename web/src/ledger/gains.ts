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

/** gain says what one candidate brings against another in a group of tests. */
function gain(c: Contrast, factor: number, name: (setup: string) => string): string {
  const better = c.verdict === 'faster'
  return `${named[c.group]}: ${name(better ? c.b : c.a)} is ${times(better ? factor : 1 / factor)}${week(c.seconds_per_week)}.`
}

/** gains are what one candidate brings against another, and no more than holds; groups that aren't certain share a sentence, and those without a difference. */
export function gains(groups: Contrast[], name: (setup: string) => string): string[] {
  const said: string[] = []
  const rest: Record<string, Contrast[]> = { 'not certain': [], 'no difference': [] }
  for (const c of groups) {
    if (c.verdict === 'equal') rest['no difference']!.push(c)
    else if (!c.holds || c.factor === null) rest['not certain']!.push(c)
    else said.push(gain(c, c.factor, name))
  }
  for (const [how, list] of Object.entries(rest)) {
    if (list.length > 0) said.push(`${list.map((c, i) => (i === 0 ? named[c.group] : named[c.group].toLowerCase())).join(', ')}: ${how}.`)
  }
  return said
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
