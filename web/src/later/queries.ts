import { useQuery } from '@tanstack/react-query'
import { client, type Client, data, type Schemas } from '../api/client'
import { keys, path, useJobCommand } from '../api/cache'

/** useDue lists what is promised and not answered yet, over all jobs. It goes stale with the jobs. */
export const useDue = () => useQuery({ queryKey: [...keys.jobs, 'due'], queryFn: () => data(client.GET('/api/due')) })

/** usePromise adds a follow-up, useDropPromise removes it, useAnswerPromise stores its outcome. */
export const usePromise = (id: string) => useJobCommand((body: Schemas['Promising'], c: Client) => data(c.POST('/api/jobs/{job}/promises', { ...path(id), body })))

export const useDropPromise = (id: string) =>
  useJobCommand((promise: string, c: Client) => data(c.DELETE('/api/jobs/{job}/promises/{promise}', { params: { path: { job: id, promise } } })))

export const useAnswerPromise = (id: string) =>
  useJobCommand(({ promise, text }: { promise: string; text: string }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/promises/{promise}/answer', { params: { path: { job: id, promise } }, body: { text } })),
  )
