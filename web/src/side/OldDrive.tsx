import type { Probe, Setup, View } from '../api/client'
import { useProbes } from '../probe/queries'
import { useSwap } from '../swap/queries'
import { useUseTemplate } from '../plan/queries'
import { probeHolding } from '../probe/probe'
import { CommandButton } from '../ui/CommandButton'
import { Refusal } from '../ui/parts'
import { healthWords, whyUnknown, type Health } from '../probe/health'

/** gentle is the template for a drive that is failing. */
const gentle = 'failing'

/** OldDrive is at the top of Then: the drive's health, and what to do where it is failing. */
export function OldDrive({ view, setup }: { view: View; setup: Setup }) {
  const probe = probeHolding(useProbes(view.id).data, setup.id)
  const swap = useSwap(view.id)
  const use = useUseTemplate(view.id)
  const health = healthOf(view, setup, probe)
  const said = health ? healthWords(health) : ''
  const noted = view.job.job.reasons?.some((r) => r.what === 'failing')
  const failing = swap.data?.failing || (noted ? 'The drive is failing, as noted at intake.' : '')
  const already = view.job.plan.template === gentle
  if (failing) {
    return (
      <section role="alert" aria-label="The old drive is failing" className="flex flex-wrap items-center gap-x-4 gap-y-2 border-l-8 border-error bg-base-200 p-3">
        <p className="flex-1 basis-80">
          <strong>{failing}</strong> Back the data up first. {already ? 'The gentle plan writes nothing to it and starts it once.' : 'This plan writes to the drive or starts it several times.'}
          {said && <span className="block">{said}</span>}
        </p>
        {!already && (
          <CommandButton of={use} tone="primary" onClick={() => use.run(gentle)}>
            Use the gentle plan
          </CommandButton>
        )}
        {use.error && <Refusal error={use.error} />}
      </section>
    )
  }
  if (said)
    return (
      <p>
        <span className="text-secondary">Health:</span> {said}
      </p>
    )
  const unknown = probe && whyUnknown(probe, driveIn(probe, setup))
  return unknown ? <p className="text-warning">Health unknown: {unknown}</p> : null
}

/** driveIn is what a probe calls the drive of a setup. */
const driveIn = (probe: Probe, setup: Setup) => probe.facts.volumes.find((v) => v.mount === probe.mounts[setup.id])?.drive

/** healthOf is what the drive said last: to the probe that sees it, else in its last session. */
function healthOf(view: View, setup: Setup, probe: Probe | undefined): Health | undefined {
  const at = probe && driveIn(probe, setup)
  const seen = probe?.facts.drives.find((d) => d.id === at)?.health
  return seen ?? view.job.sittings.filter((s) => s.setup === setup.id && s.health).at(-1)?.health
}
