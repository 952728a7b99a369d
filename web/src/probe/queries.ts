import { useQuery, type QueryClient } from '@tanstack/react-query'
import { client, type Client, data, type Probe } from '../api/client'
import { keys, path, takeJob, useJobCommand } from '../api/cache'
import { useCommand } from '../api/command'
import { takeMeasuring } from '../measure/queries'

/** useProbes are the probes that have joined a job. No event says that one is away, so this polls. */
export const useProbes = (id: string) =>
  useQuery({
    queryKey: [...keys.probes(id), 'list'],
    queryFn: () => data(client.GET('/api/jobs/{job}/probes', path(id))),
    // Nor is there an event for the progress of a check.
    refetchInterval: (q) => (q.state.data?.some((p) => p.checking?.state === 'running') ? 1000 : 20_000),
  })

export const takeProbes = (id: string) => ({ onSuccess: (probes: Probe[], _: unknown, cache: QueryClient) => cache.setQueryData([...keys.probes(id), 'list'], probes) })

/** useRefreshProbe lets a probe say again what its computer is. */
export const useRefreshProbe = (id: string) =>
  useCommand((probe: string, c) => data(c.POST('/api/jobs/{job}/probes/{probe}/refresh', { params: { path: { job: id, probe } } })), takeProbes(id))

export const usePair = (id: string) => useCommand((_: void, c) => data(c.POST('/api/jobs/{job}/pairing', path(id))))

export const useDismissProbe = (id: string) =>
  useCommand((probe: string, c) => data(c.DELETE('/api/jobs/{job}/probes/{probe}', { params: { path: { job: id, probe } } })), takeProbes(id))

/** useStayProbe undoes that a probe was told to leave. */
export const useStayProbe = (id: string) =>
  useCommand((probe: string, c) => data(c.POST('/api/jobs/{job}/probes/{probe}/stay', { params: { path: { job: id, probe } } })), takeProbes(id))

/** useTakeFacts fills in what a probe reports of a setup, replacing existing values if instead is set. */
export const useTakeFacts = (id: string) =>
  useCommand(
    ({ probe, ...body }: { probe: string; setup: string; instead?: boolean }, c) => data(c.POST('/api/jobs/{job}/probes/{probe}/facts', { params: { path: { job: id, probe } }, body })),
    {
      onSuccess: (view, _, cache) => {
        takeJob(view, cache)
        return cache.invalidateQueries({ queryKey: keys.probes(id) })
      },
    },
  )

/** useDoing performs a technician's action on a simulated computer. */
export const useDoing = (id: string) =>
  useCommand(
    ({ probe, what }: { probe: string; what: string }, c) =>
      data(c.POST('/api/jobs/{job}/probes/{probe}/doings', { params: { path: { job: id, probe } }, body: { do: what } })),
    takeProbes(id),
  )

/** useStartLaunches lets a probe time the launches of a program. */
export const useStartLaunches = (id: string) =>
  useCommand(
    (body: { test: string; sitting: string; probe: string; program: string; args: string[]; until: string; cold: boolean }, c) => data(c.POST('/api/jobs/{job}/launches', { ...path(id), body })),
    takeMeasuring(id),
  )

/** useTakeStarts takes starts that a computer's system recorded as runs. */
export const useTakeStarts = (id: string, probe: string) =>
  useJobCommand((body: { test: string; sitting: string; at: string[] }, c: Client) => data(c.POST('/api/jobs/{job}/probes/{probe}/starts', { params: { path: { job: id, probe } }, body })))

/** useStartRestarts lets a probe time restarts of its computer. */
export const useStartRestarts = (id: string) =>
  useCommand((body: { test: string; sitting: string; probe: string; by_hand: boolean }, c) => data(c.POST('/api/jobs/{job}/restarts', { ...path(id), body })), takeMeasuring(id))
