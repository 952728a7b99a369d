import type { Schemas } from '../api/client'
import { capacity } from '../ui/format'

/** inAYear says how full the new drive would be in a year, at the rate at which the old one filled. */
export function inAYear(a: NonNullable<Schemas['Fit']['in_a_year']>, room: number): string {
  const since = new Date(a.since).toLocaleDateString('en-GB', { month: 'long', year: 'numeric' })
  const full = Math.round((a.used_bytes / room) * 100)
  return `At the rate at which it filled since ${since}, about ${capacity(a.used_bytes)} would be used in a year: ${a.too_full ? `too much for the new drive (${full} %).` : `${full} % of the new drive.`}`
}
