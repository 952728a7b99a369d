import { useMemo } from 'react'
import { useQuery } from '@tanstack/react-query'
import { client, type Client, data, type Run, type Schemas, type Setup, type View } from '../api/client'
import { keys, path, asBytes, useJobCommand } from '../api/cache'
import { useCommand } from '../api/command'
import { type Fate } from './fate'

/** allRuns are a job's runs, fetched page by page. */
async function allRuns(job: string): Promise<Run[]> {
  const all: Run[] = []
  for (let cursor: string | undefined; ; cursor = all.at(-1)!.id) {
    const answer = client.GET('/api/jobs/{job}/runs', { params: { path: { job }, query: { cursor } } })
    all.push(...(await data(answer)))
    if (!(await answer).response.headers.has('Link')) return all
  }
}

/** useJob is a job with its runs, which are fetched separately: commands answer without them. */
export function useJob(id: string) {
  const job = useQuery({ queryKey: keys.job(id), queryFn: () => data(client.GET('/api/jobs/{job}', { params: { path: { job: id }, query: { runs: 'none' } } })) })
  const runs = useQuery({ queryKey: keys.runs(id), queryFn: () => allRuns(id) })
  const view = useMemo<View | undefined>(() => job.data && runs.data && { ...job.data, job: { ...job.data.job, runs: runs.data } }, [job.data, runs.data])
  return { data: view, error: job.error ?? runs.error, isPending: job.isPending || runs.isPending, refetch: () => Promise.all([job.refetch(), runs.refetch()]) }
}

/** useForecast is the expected effect of a new drive, from the shop's finished jobs. */
export const useForecast = (id: string, enabled: boolean) =>
  useQuery({ queryKey: [...keys.ledger(id), 'forecast'], queryFn: () => data(client.GET('/api/jobs/{job}/forecast', path(id))), enabled })

export const usePassGate = (id: string) =>
  useJobCommand((body: { gate: 'old-drive-out' | 'case-closed' | 'measured-again' | 'handed-back'; why?: string; old_drive?: string }, c: Client) =>
    data(c.POST('/api/jobs/{job}/gates', { ...path(id), body })),
  )

/** useUnpassGate undoes the checkpoint that was passed last. */
export const useUnpassGate = (id: string) =>
  useJobCommand((gate: string, c: Client) => data(c.DELETE('/api/jobs/{job}/gates/{gate}', { params: { path: { job: id, gate } } })))

/** useFate sets what happened to a drive. */
export const useFate = (id: string) =>
  useJobCommand(({ drive, fate }: { drive: string; fate: Fate }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/drives/{drive}/fate', { params: { path: { job: id, drive } }, body: { fate } })),
  )

export const useAcceptWaiting = (id: string) =>
  useJobCommand((run: string, c: Client) => data(c.POST('/api/jobs/{job}/waiting/{run}/accept', { params: { path: { job: id, run } } })))

export const useDiscardWaiting = (id: string) =>
  useJobCommand((run: string, c: Client) => data(c.DELETE('/api/jobs/{job}/waiting/{run}', { params: { path: { job: id, run } } })))

/** useAddPicture attaches a photo to a session or a run. */
export const useAddPicture = (id: string) =>
  useJobCommand(({ sitting, run, file }: { sitting?: string; run?: string; file: File }, c: Client) =>
    data(
      sitting
        ? c.POST('/api/jobs/{job}/sittings/{sitting}/photos', { params: { path: { job: id, sitting }, query: { name: file.name } }, ...asBytes(file) })
        : c.POST('/api/jobs/{job}/runs/{run}/photos', { params: { path: { job: id, run: run! }, query: { name: file.name } }, ...asBytes(file) }),
    ),
  )

export const useStay = (id: string) =>
  useJobCommand((setup: string, c: Client) => data(c.PUT('/api/jobs/{job}/setups/{setup}/stays', { params: { path: { job: id, setup } } })))

/** useHere reports whether a setup's computer is the one that the bench runs on, as its docket says: what is seen here is then so of it. */
export function useHere(view: View, setup: Setup): boolean {
  const real = !view.job.computers.find((c) => c.id === setup.computer)?.simulated
  const here = useQuery({ queryKey: ['computer'], queryFn: () => data(client.GET('/api/computer')), staleTime: Infinity, enabled: real }).data
  const of = view.job.computers.find((c) => c.id === setup.computer)
  return Boolean(real && here?.model && of?.model === here.model && of.maker === here.maker)
}

/** useBin puts a job into the bin, useRestore takes it out. */
export const useBin = (id: string) => useJobCommand((_: undefined, c: Client) => data(c.DELETE('/api/jobs/{job}', path(id))) as Promise<View>)

export const useRestore = (id: string) => useJobCommand((_: undefined, c: Client) => data(c.POST('/api/jobs/{job}/restore', path(id))))

/** useDeleteForGood deletes a job that is in the bin. */
export const useDeleteForGood = (id: string) =>
  useCommand((_: undefined, c: Client) => data(c.DELETE('/api/jobs/{job}', { params: { path: { job: id }, query: { for: 'good' } } })))

/** useChangeSetup changes a setup: how its drive joins, how its system got there. */
export const useChangeSetup = (id: string) =>
  useJobCommand(({ setup, ...body }: { setup: string } & Schemas['SetupChange'], c: Client) =>
    data(c.PATCH('/api/jobs/{job}/setups/{setup}', { params: { path: { job: id, setup } }, body })),
  )

export const useSetFate = (id: string) =>
  useJobCommand(({ drive, fate }: { drive: string; fate: NonNullable<Schemas['Drive']['fate']> }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/drives/{drive}/fate', { params: { path: { job: id, drive } }, body: { fate: fate as Schemas['FateIn']['fate'] } })),
  )
