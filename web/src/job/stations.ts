import type { View } from '../api/client'
import { pagePath, type Page } from './paths'
import { setupName } from './view'

/** Station is a page of a job on its way: done, here, or ahead. */
export type Station = { key: string; label: string; path: string; state: 'done' | 'here' | 'ahead' }

const labels: Record<string, string> = { intake: 'Intake', then: 'Then', prepare: 'Prepare', swap: 'Swap', now: 'Now', compare: 'Result', report: 'Report' }

/** stationName is what a page of a job is called: of a comparison's drive by its name. */
export function stationName(view: View, page: Page): string {
  if (page === 'now' && kindOf(view) === 'check-up') return 'Check-up'
  const setup = view.job.setups.find((s) => s.id === page)
  return labels[page] ?? (setup ? setupName(setup) : page)
}

export type JobKind = 'upgrade' | 'comparison' | 'check-up'

/** kindOf is what the visit is for. */
export const kindOf = (view: View): JobKind => view.job.job.kind ?? 'upgrade'

/** wayOf are the pages of a job in order; trials of an upgrade come before Now. */
function wayOf(view: View): Page[] {
  const setups = view.job.setups.filter((s) => s.role === 'trial' && !s.id.startsWith('earlier')).map((s) => s.id)
  switch (kindOf(view)) {
    case 'comparison':
      return ['intake', ...setups, 'compare', 'report']
    case 'check-up':
      return ['intake', 'now', 'compare', 'report']
  }
  return ['intake', 'then', 'prepare', 'swap', ...setups, 'now', 'compare', 'report']
}

/** stationsOf are the stations of a job in order. A trial of an upgrade is done once something is measured on it. */
export function stationsOf(view: View): Station[] {
  const way = wayOf(view)
  const here = view.here === '' ? way.length : way.indexOf(view.page)
  const beside = kindOf(view) === 'upgrade'
  return way.map((page, i) => {
    const trial = beside && view.job.setups.some((s) => s.id === page && s.role === 'trial')
    const tried = view.coverage.some((c) => c.setup === page && c.kept > 0)
    const state = trial ? (tried ? 'done' : 'ahead') : i < here ? 'done' : i === here ? 'here' : 'ahead'
    return { key: page, label: stationName(view, page), path: pagePath(view.id, page), state }
  })
}
