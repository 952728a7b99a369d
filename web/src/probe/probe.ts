import { useQuery } from '@tanstack/react-query'
import { client, data, type Probe, type View } from '../api/client'
import { keys } from '../api/cache'
import { useProbes } from './queries'
import { capacity } from '../ui/format'
import { linkOf } from './drives'

/** useProbeOn is the probe whose computer is in a setup now and that can be asked, or undefined. */
export function useProbeOn(view: View, setup: string): Probe | undefined {
  return probeOn(useProbes(view.id).data, setup)
}

/** probeOn is the probe of those that is in a setup; one that is away after one that is not. */
export function probeOn(probes: Probe[] | undefined, setup: string): Probe | undefined {
  const there = (probes ?? []).filter((p) => p.setup === setup && !p.leaving)
  return there.find((p) => !p.away) ?? there[0]
}

/** useProbeHolding is the probe of whose computer a round can measure a setup's drive: it is in that setup, or has that drive as well. */
export function useProbeHolding(view: View, setup: string): Probe | undefined {
  return probeHolding(useProbes(view.id).data, setup)
}

export function probeHolding(probes: Probe[] | undefined, setup: string): Probe | undefined {
  return probeOn(probes, setup) ?? probes?.find((p) => p.mounts[setup] && !p.leaving && !p.away)
}

/** look lets a probe read the conditions on its computer, which takes about two seconds. */
export const look = (job: string, probe: string) => data(client.GET('/api/jobs/{job}/probes/{probe}/conditions', { params: { path: { job, probe } } }))

/** useLook is what a probe sees now; it is checked again each time that it is opened. */
export const useLook = (job: string, probe: Probe | undefined) =>
  useQuery({ queryKey: [...keys.probes(job), probe?.id, 'look'], queryFn: () => look(job, probe!.id), enabled: Boolean(probe && !probe.away), staleTime: 0, gcTime: 0, retry: false })

/** seenDrive names the drive that a probe sees under test, with the link that it has got. */
export function seenDrive(p: Probe): string {
  const system = p.facts.volumes.find((v) => v.system)?.drive
  const d = p.facts.drives.find((x) => x.id === system) ?? p.facts.drives[0]
  if (!d) return ''
  return [[d.maker, d.model].filter(Boolean).join(' '), d.capacity_bytes ? capacity(d.capacity_bytes) : '', linkOf(d)].filter(Boolean).join(', ')
}

/** readsFiles reports whether a probe was last asked to read files, not to check a drive. */
export const readsFiles = (p: Probe) => p.checking?.kind === 'list' || p.checking?.kind === 'compare'

/** doingWords are the buttons for a simulated computer. */
export const doingWords: Record<string, string> = {
  swap: 'Swap the drive',
  'on-battery': 'Pull the charger',
  'on-mains': 'Plug the charger in',
  download: 'Start a download',
  quiet: 'Stop everything else',
  encrypting: 'Start an encryption pass',
  encrypted: 'End the encryption pass',
  attach: 'Connect the new drive by USB',
  grow: 'Grow the system’s partition',
}
