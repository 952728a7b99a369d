import { useQuery, type QueryClient } from '@tanstack/react-query'
import { client, type Client, data, type Schemas } from '../api/client'
import { keys, path, asBytes, useJobCommand } from '../api/cache'
import { useCommand } from '../api/command'
import { upload } from './upload'

export const useClips = (id: string) => useQuery({ queryKey: keys.clips(id), queryFn: () => data(client.GET('/api/jobs/{job}/clips', path(id))), staleTime: 0 })

const takeClips = (id: string) => (_: unknown, __: unknown, cache: QueryClient) => cache.invalidateQueries({ queryKey: keys.clips(id) })

export const useUpload = (id: string) =>
  useCommand(({ file, tell }: { file: File; tell: (share: number) => void }) => upload(id, file, tell), { onSuccess: takeClips(id), onError: takeClips(id) })

const useClipCommand = <In>(id: string, send: (input: In, c: Client) => Promise<Schemas['Clips']>) =>
  useCommand<In, Schemas['Clips']>(send, { onSuccess: (clips, _, cache) => cache.setQueryData(keys.clips(id), clips) })

export const useKeepClip = (id: string) =>
  useClipCommand(id, ({ clip, until }: { clip: string; until: string | null }, c) =>
    data(c.PATCH('/api/jobs/{job}/clips/{clip}', { params: { path: { job: id, clip } }, body: { keep_until: until } })),
  )

export const useDropClip = (id: string) =>
  useClipCommand(id, (clip: string, c) => data(c.DELETE('/api/jobs/{job}/clips/{clip}', { params: { path: { job: id, clip } } })))

export const useMarkRun = (id: string) =>
  useJobCommand(({ clip, ...body }: Schemas['Marking'] & { clip: string }, c: Client) =>
    data(c.POST('/api/jobs/{job}/clips/{clip}/runs', { params: { path: { job: id, clip } }, body })),
  )

export const useStill = (id: string) => useCommand((picture: Blob, c) => data(c.POST('/api/jobs/{job}/stills', { ...path(id), ...asBytes(picture as File) })))
