import type { ReactNode, Ref } from 'react'
import { useNavigate } from 'react-router'
import type { View } from '../api/client'
import { useStartMeasuring } from './queries'
import { backPath, measurePath } from '../job/paths'
import { lastSitting, missingRuns, setupOf, simulatedOn } from '../job/view'
import { look, useProbeHolding } from '../probe/probe'
import { CommandButton } from '../ui/CommandButton'
import { useGoOn } from '../ui/goOn'

/** BeginRound begins a round of what is missing on a setup, where all that it needs is known; else it leads to where that is asked. */
export function BeginRound({ view, setup, primary, ref, children }: { view: View; setup: string; primary?: boolean; ref?: Ref<HTMLElement>; children: ReactNode }) {
  const go = useNavigate()
  const goOn = useGoOn()
  const start = useStartMeasuring(view.id)
  const to = measurePath(view.id, setup)
  const sitting = lastSitting(view, setup)
  const simulated = simulatedOn(view, setupOf(view, setup))
  const probe = useProbeHolding(view, setup)
  const begin = () => {
    // On this computer the page shows beforehand how much is written, and where.
    if (!sitting || (!simulated && !probe)) return void go(to)
    const tests = view.job.tests.filter((t) => view.coverage.some((c) => c.test === t.id && c.setup === setup && c.automatic) && missingRuns(view, t, setup) > 0).map((t) => t.id)
    // What is refused, or in doubt, is on the page of the round.
    const asked = goOn(() => `${to}?from=${encodeURIComponent(backPath(view, setup))}`)
    const started = async () => {
      if (probe && (await look(view.id, probe.id)).doubts.length > 0) return asked(probe)
      await start.runAsync({ sitting: sitting.id, dir: '', tests, ...(probe && { probe: probe.id }) }).then(goOn(() => to))
    }
    void started().catch(asked)
  }
  return (
    <CommandButton ref={ref} of={start} tone={primary ? 'primary' : 'plain'} size={primary ? 'lg' : undefined} onClick={begin}>
      {children}
    </CommandButton>
  )
}
