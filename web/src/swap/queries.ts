import { useQuery } from '@tanstack/react-query'
import { client, type Client, data, type Schemas } from '../api/client'
import { keys, path, asBytes, useJobCommand } from '../api/cache'
import { useCommand } from '../api/command'
import { takeProbes } from '../probe/queries'

/** useSwap is whether the new drive has enough space, its checks, and the time of the work; it changes with the job and the probes. */
export const useSwap = (id: string, enabled = true) => useQuery({ queryKey: keys.swap(id), queryFn: () => data(client.GET('/api/jobs/{job}/swap', path(id))), enabled })

/** useDropWork removes an entry of other work. */
export const useDropWork = (id: string) =>
  useJobCommand((work: string, c: Client) => data(c.DELETE('/api/jobs/{job}/work/{work}', { params: { path: { job: id, work } } })))

export const useKeepCarried = (id: string) => useJobCommand((body: Schemas['Difference'], c: Client) => data(c.PUT('/api/jobs/{job}/carried', { ...path(id), body })))

export const useNoteWork = (id: string) =>
  useJobCommand((body: Schemas['WorkIn'], c: Client) => data(c.POST('/api/jobs/{job}/work', { ...path(id), body })))

/** useLookAtCheck stores the result of a check by hand. */
export const useLookAtCheck = (id: string) =>
  useJobCommand(({ check, ...body }: { check: string } & Schemas['Looking'], c: Client) => data(c.PUT('/api/jobs/{job}/checks/{check}', { params: { path: { job: id, check } }, body })))

/** useWeigh lets a probe find the largest folders of the drive under test. */
export const useWeigh = (id: string) =>
  useCommand((probe: string, c) => data(c.POST('/api/jobs/{job}/probes/{probe}/weigh', { params: { path: { job: id, probe } } })), takeProbes(id))

/** useOwnLayout is the layout of the new drive at sizes that somebody wants; while it comes, the one before stays. */
export const useOwnLayout = (id: string, sizes: string, enabled: boolean) =>
  useQuery({
    queryKey: [...keys.swap(id), 'own', sizes],
    queryFn: () => data(client.GET('/api/jobs/{job}/layout', { params: { path: { job: id }, query: { sizes } } })),
    enabled,
    placeholderData: (before) => before,
  })

/** useHold keeps whether the new drive has the capacity it reports, useSustained how it held up, as somebody imports it. */
export const useHold = (id: string) => useJobCommand((body: Schemas['CapacityResult'], c: Client) => data(c.PUT('/api/jobs/{job}/held', { ...path(id), body })))

export const useSustained = (id: string) => useJobCommand((body: Schemas['Sustained'], c: Client) => data(c.POST('/api/jobs/{job}/sustained', { ...path(id), body })))

/** useCheckDrive lets a probe check the new drive, useStopCheck ends that. */
export const useCheckDrive = (id: string) =>
  useCommand(({ probe, ...body }: { probe: string } & Schemas['CheckRequest'], c) => data(c.PUT('/api/jobs/{job}/probes/{probe}/check', { params: { path: { job: id, probe } }, body })), takeProbes(id))

/** useReadFiles lets a probe list the old drive’s files, or check which of them came across; [useStopCheck] pauses it. */
export const useReadFiles = (id: string) =>
  useCommand(({ probe, ...body }: { probe: string } & Schemas['FilesRequest'], c) => data(c.PUT('/api/jobs/{job}/probes/{probe}/files', { params: { path: { job: id, probe } }, body })), takeProbes(id))

export const useStopCheck = (id: string) =>
  useCommand((probe: string, c) => data(c.DELETE('/api/jobs/{job}/probes/{probe}/check', { params: { path: { job: id, probe } } })), takeProbes(id))

/** useFitting is whether the new drive goes into the computer, useNoteFitting notes what is known of both. */
export const useFitting = (id: string, enabled: boolean) =>
  useQuery({ queryKey: [...keys.swap(id), 'fitting'], queryFn: () => data(client.GET('/api/jobs/{job}/fitting', path(id))), enabled })

export const useNoteFitting = (id: string) => useJobCommand((body: Schemas['Noting'], c: Client) => data(c.PUT('/api/jobs/{job}/fitting', { ...path(id), body })))

/** useBeginTask begins work whose time is taken, useDescribeTask says again what it is, useClockTask starts, switches or stops its clock. */
export const useBeginTask = (id: string) => useJobCommand((body: Schemas['Tasking'], c: Client) => data(c.POST('/api/jobs/{job}/tasks', { ...path(id), body })))

export const useDescribeTask = (id: string) =>
  useJobCommand(({ task, ...body }: { task: string } & Schemas['Tasking'], c: Client) => data(c.PUT('/api/jobs/{job}/tasks/{task}', { params: { path: { job: id, task } }, body })))

export const useClockTask = (id: string) =>
  useJobCommand(({ task, ...body }: { task: string } & Schemas['Clocking'], c: Client) =>
    data(c.PUT('/api/jobs/{job}/tasks/{task}/clock', { params: { path: { job: id, task } }, body })),
  )

export const useTick = (id: string) =>
  useJobCommand(({ step, ...body }: { step: string; done: boolean; by?: string }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/steps/{step}', { params: { path: { job: id, step } }, body })),
  )

export const useAddStep = (id: string) =>
  useJobCommand((body: { text: string; when: string }, c: Client) => data(c.POST('/api/jobs/{job}/steps', { ...path(id), body })))

export const useDropStep = (id: string) =>
  useJobCommand((step: string, c: Client) => data(c.DELETE('/api/jobs/{job}/steps/{step}', { params: { path: { job: id, step } } })))

export const useAddPhoto = (id: string) =>
  useJobCommand(({ step, file }: { step: string; file: File }, c: Client) =>
    data(c.POST('/api/jobs/{job}/steps/{step}/photos', {
        params: { path: { job: id, step }, query: { name: file.name } },
        ...asBytes(file),
      }),
    ),
  )

export const useNoteUsed = (id: string) =>
  useJobCommand(({ setup, bytes }: { setup: string; bytes: number }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/setups/{setup}/used', { params: { path: { job: id, setup } }, body: { bytes } })),
  )
