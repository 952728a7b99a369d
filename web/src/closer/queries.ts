import { useQuery } from '@tanstack/react-query'
import { client, data } from '../api/client'
import { keys } from '../api/cache'

/** useCloser is everything about the runs of a test beyond their values. */
export const useCloser = (id: string, test: string) =>
  useQuery({
    queryKey: [...keys.closer(id), test],
    queryFn: () => data(client.GET('/api/jobs/{job}/tests/{test}/closer', { params: { path: { job: id, test } } })),
  })
