import type { QueryClient } from '@tanstack/react-query'
import type { Bare, Client } from './client'
import { useCommand } from './command'

/** keys are the query keys of the cache; live events use them too. */
export const keys = {
  jobs: ['jobs'] as const,
  job: (id: string) => ['job', id, 'view'] as const,
  runs: (id: string) => ['job', id, 'runs'] as const,
  measuring: (id: string) => ['job', id, 'measuring'] as const,
  timer: (id: string) => ['job', id, 'timer'] as const,
  ledger: (id: string) => ['job', id, 'ledger'] as const,
  templates: ['templates'] as const,
  technicians: ['technicians'] as const,
  session: ['session'] as const,
  settings: ['settings'] as const,
  reach: ['reach'] as const,
  offers: ['offers'] as const,
  sticks: ['sticks'] as const,
  clips: (id: string) => ['job', id, 'clips'] as const,
  probes: (id: string) => ['job', id, 'probes'] as const,
  swap: (id: string) => ['job', id, 'swap'] as const,
  catalogue: ['catalogue'] as const,
  report: (id: string) => ['job', id, 'report'] as const,
  closer: (id: string) => ['job', id, 'closer'] as const,
}

/** follows is what is fetched again after an event, by its type. */
const follows = {
  job: (id: string) => [keys.jobs, keys.job(id), keys.runs(id), keys.ledger(id), keys.report(id), keys.closer(id), keys.swap(id)],
  probes: (id: string) => [keys.probes(id), keys.swap(id)],
  clips: (id: string) => [keys.clips(id)],
  offers: () => [keys.offers],
} satisfies Record<string, (id: string) => (readonly string[])[]>

/** stale fetches again what an event affects; queries that are not on the screen wait until they are. */
export function stale(cache: QueryClient, event: keyof typeof follows, id: string, but?: readonly string[]) {
  for (const queryKey of follows[event](id)) if (queryKey.join() !== but?.join()) void cache.invalidateQueries({ queryKey })
}

export const path = (job: string) => ({ params: { path: { job } } })

/** asBytes sends a file as it is. */
export const asBytes = (file: File) => ({
  body: file as unknown as string,
  bodySerializer: (body: unknown) => body as BodyInit,
  headers: { 'Content-Type': 'application/octet-stream' },
})

/** takeJob brings a job that a command answered with into the cache. */
export function takeJob(view: Bare, cache: QueryClient) {
  // An event may have overtaken the answer: an older revision never replaces a newer one.
  cache.setQueryData<Bare>(keys.job(view.id), (before) => (before && before.revision > view.revision ? before : view))
  stale(cache, 'job', view.id, keys.job(view.id))
}

/** useJobCommand is a command that answers with the changed job. */
export const useJobCommand = <In, Out extends Bare = Bare>(send: (input: In, c: Client) => Promise<Out>, then?: (view: Out) => void) =>
  useCommand<In, Out>(send, {
    onSuccess: (view, _, cache) => {
      takeJob(view, cache)
      then?.(view)
    },
  })
