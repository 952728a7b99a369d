import type { View } from '../api/client'
import { bytes, minutes } from '../ui/format'
import { driveOf, setupName, setupOf } from './view'

/** Budget says what the rest of the plan takes on the setup that is measured next. */
export function Budget({ view }: { view: View }) {
  const b = view.budget.find((x) => x.hands_minutes + x.wait_minutes > 0)
  if (!b || view.here === '' || view.here === 'compare') return null
  const setup = setupOf(view, b.setup)!
  const endurance = driveOf(view, setup)?.rated?.endurance_tb
  return (
    <p className="mb-2">
      Still to do on {setupName(setup)}: <strong>{minutes(b.hands_minutes) || 'nothing'}</strong> with hands,{' '}
      <strong>{minutes(b.wait_minutes) || 'nothing'}</strong> unattended, at most <strong>{bytes(b.write_bytes)}</strong> written
      {b.endurance_pct !== null && (
        <>
          {' '}
          ({b.endurance_pct < 0.1 ? 'under 0.1' : b.endurance_pct.toFixed(1)} % of the {endurance} TB it is rated for)
        </>
      )}
      .{b.needs.length > 0 && <span className="block text-secondary">At hand: {b.needs.join(', ')}.</span>}
    </p>
  )
}
