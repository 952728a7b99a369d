import { useQuery, type QueryClient } from '@tanstack/react-query'
import { client, data } from '../api/client'
import { keys, path } from '../api/cache'
import { useCommand } from '../api/command'

export const useMeasuring = (id: string) =>
  useQuery({ queryKey: keys.measuring(id), queryFn: () => data(client.GET('/api/jobs/{job}/measuring', path(id))) })

export const useFolders = (dir: string, enabled: boolean) =>
  useQuery({
    queryKey: ['folders', dir],
    queryFn: () => data(client.GET('/api/folders', { params: { query: { path: dir } } })),
    enabled,
    staleTime: 0,
    placeholderData: (before) => before,
  })

export const takeMeasuring = (id: string) => ({ onSuccess: (_: unknown, __: unknown, cache: QueryClient) => cache.invalidateQueries({ queryKey: keys.measuring(id) }) })

export const useStartMeasuring = (id: string) =>
  useCommand(
    (body: { sitting: string; dir: string; folder?: string; tests?: string[]; runs?: number; probe?: string; patient?: boolean }, c) => data(c.POST('/api/jobs/{job}/measuring', { ...path(id), body })),
    takeMeasuring(id),
  )

export const useCancelMeasuring = (id: string) =>
  useCommand((_: void, c) => data(c.DELETE('/api/jobs/{job}/measuring', path(id))), { ...takeMeasuring(id), onError: takeMeasuring(id).onSuccess })
