import type { Schemas, Setup, View } from '../api/client'
import { nowOf, setupAs } from './view'

export type Relation = Exclude<Schemas['Relation'], ''>

/** relations are how a new drive joins the computer, as a technician says it. */
export const relations: { value: Relation; label: string }[] = [
  { value: 'replaces', label: 'Replaces the old one' },
  { value: 'added', label: 'Added beside it' },
  { value: 'cache', label: 'Caches it' },
  { value: 'tried', label: 'Only tried' },
  { value: 'returns', label: 'The old one goes back in' },
]

/** relationOf is how a setup's drive joins, as far as somebody said; older jobs are read as they said it. */
export function relationOf(s: Setup | undefined): Relation | undefined {
  if (!s) return undefined
  return s.relation || (s.adds ? 'added' : s.cache_drive ? 'cache' : s.replaces ? 'replaces' : undefined) || undefined
}

/** comesOut reports whether the old drive leaves the computer: not where the new one is added or caches it. */
export const comesOut = (v: View) => !['added', 'cache'].includes(relationOf(nowOf(v)) ?? '')

/** goesBack reports whether the old drive is what the customer takes home. */
export const goesBack = (v: View) => v.job.job.stays === setupAs(v, 'then')?.id || relationOf(nowOf(v)) === 'returns'
