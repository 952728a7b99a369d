import type { View } from '../api/client'
import { setupName } from '../job/view'
import { sideName } from './sides'

type Option = { id: string; label: string }

/**
 * sidesOf lists what can be on a side of the ledger: every setup, and every sitting of a setup that has several, so that
 * a follow-up can be set against the first measuring.
 */
export function sidesOf(view: View): Option[] {
  return view.job.setups.flatMap((s) => {
    const sittings = view.job.sittings.filter((x) => x.setup === s.id && view.job.runs.some((r) => r.sitting === x.id))
    const own: Option[] = [{ id: s.id, label: setupName(s) }]
    if (sittings.length < 2) return own
    return own.concat(
      sittings.map((x) => {
        return { id: x.id, label: sideName(view, x.id) }
      }),
    )
  })
}

/** SidePicker chooses what is compared with what, where there is a choice. */
export function SidePicker({
  options,
  then,
  now,
  onPick,
}: {
  options: Option[]
  then: string
  now: string
  onPick: (s: { then?: string; with?: string }) => void
}) {
  if (options.length < 3) return null
  const select = (label: string, value: string, pick: (id: string) => void) => (
    <select className="select select-sm w-64" aria-label={label} value={value} onChange={(e) => pick(e.target.value)}>
      {options.map((o) => (
        <option key={o.id} value={o.id}>
          {o.label}
        </option>
      ))}
    </select>
  )
  return (
    <div className="flex flex-wrap items-center gap-2 pt-1 pb-3">
      Compare {select('Left side', then, (id) => onPick({ then: id }))} with {select('Right side', now, (id) => onPick({ with: id }))}
    </div>
  )
}
