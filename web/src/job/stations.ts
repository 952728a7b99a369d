import type { View } from '../api/client'
import { pagePath, trialPath, type Page } from './paths'
import { setupName } from './view'

/** Station is a page of a job on its way: done, here, or ahead. */
export type Station = { key: string; label: string; path: string; state: 'done' | 'here' | 'ahead' }

const order: Page[] = ['intake', 'then', 'swap', 'now', 'ledger', 'report']

export const labels: Record<Page, string> = { intake: 'Intake', then: 'Then', swap: 'The swap', now: 'Now', ledger: 'Ledger', report: 'Report' }

/** stationsOf are the stations of a job in order; trials stand between the swap and Now. */
export function stationsOf(view: View): Station[] {
  const here = view.here === '' ? order.length : order.indexOf(view.page)
  return order.flatMap((page, i): Station[] => {
    const own: Station = { key: page, label: labels[page], path: pagePath(view.id, page), state: i < here ? 'done' : i === here ? 'here' : 'ahead' }
    if (page !== 'now') return [own]
    const trials = view.job.setups.filter((s) => s.role === 'trial' && !s.id.startsWith('earlier'))
    return [
      ...trials.map((s): Station => ({
        key: s.id,
        label: setupName(s),
        path: trialPath(view.id, s.id),
        state: view.coverage.some((c) => c.setup === s.id && c.kept > 0) ? 'done' : 'ahead',
      })),
      own,
    ]
  })
}
