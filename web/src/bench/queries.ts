import { useQuery } from '@tanstack/react-query'
import { client, type Client, data } from '../api/client'
import { keys, asBytes, useJobCommand } from '../api/cache'

export function useJobs(state: 'open' | 'finished' | 'all' | 'bin', q: string, enabled = true) {
  return useQuery({
    queryKey: [...keys.jobs, state, q],
    queryFn: () => data(client.GET('/api/jobs', { params: { query: { state, q } } })),
    placeholderData: (before) => before,
    enabled,
    refetchInterval: 60_000, // how long ago something was grows by itself
  })
}

export const useImportJob = () =>
  useJobCommand(({ file, as }: { file: File; as?: 'update' | 'copy' }, c: Client) =>
    data(c.POST('/api/jobs/import', {
        params: { query: { name: file.name, as } },
        ...asBytes(file),
      }),
    ),
  )
