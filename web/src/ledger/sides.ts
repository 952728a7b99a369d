import type { View } from '../api/client'
import { setupName } from '../job/view'

/** Which of the sides that are compared can still be measured. */

/** setupOfSide is the setup of a side, which may be one of its sittings ("now@s5"). */
export const setupOfSide = (side: string) => (side.includes('@') ? side.slice(0, side.lastIndexOf('@')) : side)

/** sittingOfSide is the sitting that a side is, '' where it is all of its setup. */
export const sittingOfSide = (side: string) => (side.includes('@') ? side.slice(side.lastIndexOf('@') + 1) : '')

/** setupOf is the setup of a side. */
export const setupOf = (view: View, side: string) => view.job.setups.find((s) => s.id === setupOfSide(side))

/** sideName names a side: its setup, and which of the setup's sittings it is where it is one. */
export function sideName(view: View, side: string): string {
  const setup = setupOf(view, side)
  if (!setup) return side
  if (setup.id === side) return setupName(setup)
  const sitting = side.slice(side.lastIndexOf('@') + 1)
  const nth = view.job.sittings.filter((x) => x.setup === setup.id && view.job.runs.some((r) => r.sitting === x.id)).findIndex((x) => x.id === sitting)
  if (nth < 0) return setupName(setup)
  const back = view.job.sittings.find((x) => x.id === sitting)?.follow_up ? ', after it went back' : ''
  const asks = view.job.sittings.find((x) => x.id === sitting)?.question
  return asks ? `${setupName(setup)}: ${asks}` : `${setupName(setup)}, session ${nth + 1}${back}`
}

/** drivesOut tells whether a side was measured on the drive that has come out. */
export const drivesOut = (view: View, side: string) =>
  setupOf(view, side)?.role === 'then' && Boolean(view.job.job.gates?.some((g) => g.name === 'old-drive-out'))

/**
 * remedied is which of the two sides a remedy measures: the one at which something was found where it is at one alone; else the first while
 * its drive is in, else the second. It is undefined where that can't be measured any more.
 */
export function remedied(view: View, sides: string[], found: { then: string; with: string } = { then: '', with: '' }): 0 | 1 | undefined {
  if (Boolean(found.then) !== Boolean(found.with)) {
    const at = found.then ? 0 : 1
    return sides[at] && !drivesOut(view, sides[at]) ? at : undefined
  }
  if (sides[0] && !drivesOut(view, sides[0])) return 0
  return sides[1] && !drivesOut(view, sides[1]) ? 1 : undefined
}
