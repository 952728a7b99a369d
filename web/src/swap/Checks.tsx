import type { View } from '../api/client'
import { useLookAtCheck, useSwap } from './queries'
import { useRefreshProbe } from '../probe/queries'
import { useProbeOn } from '../probe/probe'
import { CommandButton } from '../ui/CommandButton'
import { Fold } from '../ui/Fold'
import { time } from '../ui/format'
import { Refusal } from '../ui/parts'
import { technician } from '../ui/technician'
import { CheckLine, standing } from './CheckLine'
import { CheckDrive } from './CheckDrive'

const rank = { wrong: 0, unknown: 1, fine: 2 }

/** Checks are the checks of the new drive once it is fitted, as far as the probe sees it. */
export function Checks({ job, setup, view }: { job: string; setup: string; view: View }) {
  const swap = useSwap(job)
  const refresh = useRefreshProbe(job)
  const see = useLookAtCheck(job)
  const probe = useProbeOn(view, setup)
  const checks = swap.data?.checks ?? []
  if (checks.length === 0) return null
  const wrong = checks.filter((c) => c.state === 'wrong').length
  const fine = checks.filter((c) => c.state === 'fine').length
  return (
    <Fold
      small
      live
      title="Checks of the new drive"
      opened={wrong > 0}
      status={standing(checks)}
      tone={wrong > 0 ? 'text-error' : fine === checks.length ? 'text-success' : 'text-secondary'}
      aside={swap.data?.checked && `as of ${time(swap.data.checked)}`}
    >
      <ul className="grid gap-x-8 pt-1 md:grid-cols-2">
        {checks
          .toSorted((a, b) => rank[a.state] - rank[b.state])
          .map((c) => (
            <CheckLine
              key={c.id}
              check={c}
              onLook={c.by_hand ? (state) => see.run({ check: c.id, state, by: technician.get() }) : undefined}
              onFix={c.by_hand ? { of: see, run: (fix, clear) => see.run({ check: c.id, state: 'fine', by: technician.get(), fix }, clear) } : undefined}
            />
          ))}
      </ul>
      {probe?.away && <p className="text-warning">{probe.name} is away.</p>}
      {probe && !probe.away && (
        <CommandButton of={refresh} size="sm" className="mt-2" onClick={() => refresh.run(probe.id)}>
          Check again
        </CommandButton>
      )}
      <CheckDrive view={view} fitted />
      {(refresh.error ?? see.error) && <Refusal error={refresh.error ?? see.error} />}
    </Fold>
  )
}
