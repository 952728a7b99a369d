import { useQuery, type QueryClient } from '@tanstack/react-query'
import { client, type Client, data, type Schemas, type Timer } from '../api/client'
import { keys, path, takeJob, useJobCommand } from '../api/cache'
import { useCommand } from '../api/command'

export const useTimer = (id: string) =>
  useQuery({ queryKey: keys.timer(id), queryFn: () => data(client.GET('/api/jobs/{job}/timer', path(id))) })

export const usePerform = (id: string) =>
  useJobCommand((body: { test: string; sitting: string }, c: Client) => data(c.POST('/api/jobs/{job}/perform', { ...path(id), body })))

/**
 * takeAnswer brings what a command answered about the timer into the cache, where an event has not overtaken it, and asks the
 * bench how the timer is now. Without the answer, what was done would be out of sight until the bench has said so.
 */
export function takeAnswer(cache: QueryClient, id: string, answer: Timer | null) {
  cache.setQueryData<Timer | null>(keys.timer(id), (before) => (before && !(answer && answer.now_ms > before.now_ms) ? before : answer))
  return cache.invalidateQueries({ queryKey: keys.timer(id) })
}

/** useTimerCommand is a command whose answer is the timer as it is afterwards. */
const useTimerCommand = <In>(id: string, send: (input: In, c: Client) => Promise<Timer | null>) =>
  useCommand<In, Timer | null>(send, {
    onSuccess: (timer, _, cache) => takeAnswer(cache, id, timer),
    onError: (_, __, cache) => cache.invalidateQueries({ queryKey: keys.timer(id) }),
  })

export const useArmTimer = (id: string) =>
  useTimerCommand(id, (body: { test: string; sitting: string; by?: string }, c) => data(c.PUT('/api/jobs/{job}/timer', { ...path(id), body })))

/** Keeping is how a run is kept; next: what follows in the same start is timed then. */
type Keeping = Schemas['Keeping'] & { next?: boolean }

/** useKeepTimer makes a run of the stopped timer. then is called once it is kept, even if the glass has gone in the meantime: its event may come first. */
export const useKeepTimer = (id: string, then: (how: Keeping) => void) =>
  useCommand((how: Keeping, c) => {
    const body = { ...how }
    delete body.next // the bench keeps the run alike
    return data(c.POST('/api/jobs/{job}/timer/keep', { ...path(id), body }))
  }, {
    onSuccess: (view, how, cache) => {
      takeJob(view, cache)
      void cache.invalidateQueries({ queryKey: keys.timer(id) })
      then(how)
    },
  })

export const useTechnicians = () => useQuery({ queryKey: keys.technicians, queryFn: () => data(client.GET('/api/technicians')) })

export const useCalibrate = () =>
  useCommand((body: { name: string; times_s: number[] }, c) => data(c.POST('/api/technicians', { body })), {
    onSuccess: (_, __, cache) => cache.invalidateQueries({ queryKey: keys.technicians }),
  })
