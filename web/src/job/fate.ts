import type { View } from '../api/client'
import { comesOut, goesBack } from './relation'
import { kindOf } from './stations'
import { driveOf, setupAs } from './view'

/** What can become of the old drive. */
const fates = ['returned', 'kept', 'destroyed', 'stays-inside', 'used-elsewhere', 'put-back'] as const

export type Fate = (typeof fates)[number]

const labels: Record<Fate, string> = {
  returned: 'Returned',
  kept: 'Kept here',
  destroyed: 'Destroyed',
  'stays-inside': 'Stays inside',
  'used-elsewhere': 'Used elsewhere',
  'put-back': 'Put back in',
}

/** fateOf is what became of the old drive, as far as somebody said. */
export function fateOf(view: View): Fate | undefined {
  const fate = driveOf(view, setupAs(view, 'then'))?.fate || (view.job.job.gates ?? []).findLast((g) => g.name === 'handed-back')?.old_drive
  return fates.find((f) => f === fate)
}

/** fateAsked reports whether somebody still has to say what becomes of the old drive. */
export const fateAsked = (view: View) => kindOf(view) === 'upgrade' && setupAs(view, 'then') !== undefined && fateOf(view) === undefined

/** fateOptions are what can become of it in this visit: one that doesn't come out can only stay. */
export function fateOptions(view: View): { value: Fate; label: string }[] {
  const can: Fate[] = goesBack(view) ? ['put-back'] : comesOut(view) ? ['returned', 'kept', 'destroyed', 'used-elsewhere'] : ['stays-inside']
  return can.map((value) => ({ value, label: labels[value] }))
}
