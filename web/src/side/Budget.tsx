import type { Setup, View } from '../api/client'
import { bytes, minutes } from '../ui/format'
import { driveOf } from '../job/view'

/** Budget says what the rest of the plan takes on a setup. */
export function Budget({ view, setup }: { view: View; setup: Setup }) {
  const b = view.budget.find((x) => x.setup === setup.id)
  if (!b || b.hands_minutes + b.wait_minutes <= 0) return null
  const endurance = driveOf(view, setup)?.rated?.endurance_tb
  return (
    <p className="text-secondary">
      Still to do here: <strong>{minutes(b.hands_minutes) || 'nothing'}</strong> with you, <strong>{minutes(b.wait_minutes) || 'nothing'}</strong> unattended
      {b.starts > 0 && `, ${b.starts === 1 ? 'one start' : `${b.starts} starts`} of the computer`}, at most{' '}
      <strong>{bytes(b.write_bytes)}</strong> written
      {b.endurance_pct !== null && ` (${b.endurance_pct < 0.1 ? 'under 0.1' : b.endurance_pct.toFixed(1)} % of the ${endurance} TB it is rated for)`}.
      {b.needs.length > 0 && ` You need: ${b.needs.join(', ')}.`}
    </p>
  )
}
