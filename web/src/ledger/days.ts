import type { Schemas } from '../api/client'
import { day as dayOf } from '../ui/format'

type Sitting = Schemas['Sitting']
export type Fact = { label: string; then: string; now: string; worse: boolean }

export const day = (s: Sitting) => (s.started ? dayOf(s.started) : 'no date')

const unknown = 'not known'

/** facts are what is known of either day; what is known of neither isn't shown. Worse are sectors and wear that grew. */
export function facts(first: Sitting, last: Sitting): Fact[] {
  const row = (label: string, then: number | null | undefined, now: number | null | undefined, unit: string, grows = false): Fact[] => {
    const said = (n: number | null | undefined) => (typeof n !== 'number' ? unknown : `${Math.round(n).toLocaleString('en')}${unit && ` ${unit}`}`)
    if (typeof then !== 'number' && typeof now !== 'number') return []
    return [{ label, then: said(then), now: said(now), worse: grows && typeof then === 'number' && typeof now === 'number' && now > then }]
  }
  const [a, b] = [first, last]
  return [
    ...row('Used space', a.conditions.fill_pct, b.conditions.fill_pct, '%'),
    ...row('Temperature of the drive', a.conditions.drive_temp_c, b.conditions.drive_temp_c, '°C'),
    ...row('Power-on hours', a.health?.power_on_hours, b.health?.power_on_hours, 'h'),
    ...row('Reallocated sectors', a.health?.reallocated, b.health?.reallocated, '', true),
    ...row('Pending sectors', a.health?.pending, b.health?.pending, '', true),
    ...row('Wear', a.health?.wear_pct, b.health?.wear_pct, '%', true),
  ]
}
