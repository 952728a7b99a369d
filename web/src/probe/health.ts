import type { Probe, Schemas } from '../api/client'

/** Health is a drive's own health data: as a probe read it, or as stored with a session. */
export type Health = NonNullable<Schemas['Sitting']['health']> & { warnings?: string[] | null }

/** healthWords are a drive's health in words, '' if there is none. */
export function healthWords(h: Health): string {
  const count = (n: number | null | undefined, what: string) => (typeof n === 'number' ? `${n.toLocaleString('en')} ${what}` : '')
  return [
    count(h.reallocated, 'reallocated sectors'),
    count(h.pending, 'pending sectors'),
    typeof h.wear_pct === 'number' ? `${Math.round(h.wear_pct)} % worn` : '',
    count(h.power_on_hours, 'power-on hours'),
    ...(h.warnings ?? []),
  ]
    .filter(Boolean)
    .join(', ')
}

/** whyUnknown is why a probe doesn't know a drive's health, '' if it does or gives no reason. */
export function whyUnknown(probe: Pick<Probe, 'facts'>, drive: string | undefined): string {
  const why = probe.facts.absent.find((a) => drive && a.what === `health of ${drive}`)?.why ?? ''
  return why.includes('administrator') ? 'run as administrator' : why
}
