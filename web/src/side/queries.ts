import { type Client, data, type Schemas } from '../api/client'
import { keys, path, asBytes, useJobCommand } from '../api/cache'
import { useCommand } from '../api/command'

export const useSit = (id: string) =>
  useJobCommand((body: { setup: string; conditions: Schemas['ConditionsIn'] }, c: Client) => data(c.POST('/api/jobs/{job}/sittings', { ...path(id), body })))

export const useAmendSitting = (id: string) =>
  useJobCommand(({ sitting, conditions }: { sitting: string; conditions: Schemas['ConditionsIn'] }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/sittings/{sitting}', { params: { path: { job: id, sitting } }, body: conditions })),
  )

export const useTypeIn = (id: string) =>
  useJobCommand((body: { test: string; sitting: string; text?: string; value?: number; unit?: string; note?: string; sure?: boolean } & Pick<Schemas['Run'], 'read_in' | 'bytes' | 'files'>, c: Client) =>
    data(c.POST('/api/jobs/{job}/runs', { ...path(id), body })),
  )

export const useSetAside = (id: string) =>
  useJobCommand(({ run, reason }: { run: string; reason: string }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/runs/{run}/set-aside', { params: { path: { job: id, run } }, body: { reason } })),
  )

export const useTakeBack = (id: string) =>
  useJobCommand((run: string, c: Client) => data(c.DELETE('/api/jobs/{job}/runs/{run}/set-aside', { params: { path: { job: id, run } } })))

/** useTable shows what a table of figures becomes, or takes it in. */
export const useTable = (id: string) =>
  useCommand(
    ({ file, take }: { file: File; take: '' | 'all' | 'sure' }, c) =>
      data(c.POST('/api/jobs/{job}/table', { params: { path: { job: id }, query: { name: file.name, take } }, ...asBytes(file) })),
    {
      onSuccess: (t, _, cache) => {
        if (t.taken > 0) void cache.invalidateQueries({ queryKey: keys.job(id) })
      },
    },
  )

export const useExcuse = (id: string) =>
  useJobCommand((body: { test: string; setup: string; why: string }, c: Client) => data(c.PUT('/api/jobs/{job}/excuses', { ...path(id), body })))

export const useTakeSitting = (id: string) =>
  useJobCommand(({ setup, file, sure }: { setup: string; file: File; sure?: boolean }, c: Client) =>
    data(c.POST('/api/jobs/{job}/setups/{setup}/sitting-file', {
        params: { path: { job: id, setup }, query: { name: file.name, ...(sure && { sure: '1' as const }) } },
        ...asBytes(file),
      }),
    ),
  )

/** useSetPurpose says what a session is for. */
export const useSetPurpose = (id: string) =>
  useJobCommand(({ sitting, ...body }: { sitting: string } & Schemas['PurposeIn'], c: Client) =>
    data(c.PUT('/api/jobs/{job}/sittings/{sitting}/purpose', { params: { path: { job: id, sitting } }, body })),
  )

export const useNoteEvent = (id: string) =>
  useJobCommand((body: Schemas['Happening'], c: Client) => data(c.POST('/api/jobs/{job}/events', { ...path(id), body })))

export const useForgetEvent = (id: string) =>
  useJobCommand((setup: string, c: Client) => data(c.DELETE('/api/jobs/{job}/setups/{setup}/last-event', { params: { path: { job: id, setup } } })))
