import type { View } from '../api/client'
import { differs, purposeOf, setupName } from '../job/view'
import { time } from '../ui/format'

/** Which of the sides that are compared can still be measured. */

/** partsOf are the setup and, where it is one, the sitting that a side's name stands for: a setup's id, else a sitting's id, else SETUP/SITTING. */
export function partsOf(view: View, side: string): { setup: string; sitting: string } {
  if (view.job.setups.some((s) => s.id === side)) return { setup: side, sitting: '' }
  const own = view.job.sittings?.find((s) => s.id === side)
  if (own) return { setup: own.setup, sitting: own.id }
  const at = side.includes('/') ? side.indexOf('/') : side.lastIndexOf('@') // as links of earlier versions have it
  return at > 0 ? { setup: side.slice(0, at), sitting: side.slice(at + 1) } : { setup: side, sitting: '' }
}

/** setupOf is the setup of a side. */
export const setupOf = (view: View, side: string) => view.job.setups.find((s) => s.id === partsOf(view, side).setup)

/** sideName names a side: its setup, and which of the setup's sittings it is where it is one. */
export function sideName(view: View, side: string): string {
  const setup = setupOf(view, side)
  if (!setup) return side
  const x = view.job.sittings?.find((s) => s.id === partsOf(view, side).sitting)
  if (!x) return setupName(setup)
  const what = x.question || (purposeOf(x) === 'check-up' ? 'after it went back' : differs(view, x.id)[0])
  return `${setupName(setup)}: ${[what, x.started && time(x.started)].filter(Boolean).join(', ') || 'a session without a time'}`
}

/** drivesOut reports whether a side was measured on the drive that has come out. */
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

/** conditional are the rules that look at the conditions of sessions. */
const conditional = ['power', 'busy', 'encrypting', 'encryption', 'attached-devices', 'firmware-settings']

/** oddSitting is the session in which conditions differed from the others of its side, where a finding names all runs of one; else undefined. */
export function oddSitting(view: View, f: { rule: string; runs: string[]; lines: string[] }): View['job']['sittings'][number] | undefined {
  if (!conditional.includes(f.rule)) return undefined
  const of = (id: string) => view.job.runs.find((r) => r.id === id)?.sitting
  const sittings = new Set(f.runs.map(of))
  const [only] = [...sittings]
  if (sittings.size !== 1 || !only) return undefined
  const all = view.job.runs.filter((r) => r.sitting === only && !r.set_aside && !r.repeat && f.lines.includes(r.test))
  const sitting = view.job.sittings.find((s) => s.id === only)
  return all.every((r) => f.runs.includes(r.id)) && sitting && differs(view, only).length > 0 ? sitting : undefined
}
