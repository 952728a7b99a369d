import { useQuery, type QueryClient } from '@tanstack/react-query'
import { client, data, type Schemas } from '../api/client'
import { keys } from '../api/cache'
import { useCommand } from '../api/command'

export const useReach = () => useQuery({ queryKey: keys.reach, queryFn: () => data(client.GET('/api/reach')) })

export const useSession = () => useQuery({ queryKey: keys.session, queryFn: () => data(client.GET('/api/session')) })

export const useSignIn = () =>
  useCommand((password: string) => data(client.POST('/api/session', { body: { password } })), {
    onSuccess: (session, _, cache) => {
      cache.setQueryData(keys.session, session)
      void cache.invalidateQueries()
    },
  })

export const useSignOut = () =>
  useCommand(async (where: 'here' | 'everywhere') => void (await data(where === 'here' ? client.DELETE('/api/session') : client.DELETE('/api/sessions'))), {
    onSuccess: (_, __, cache) => cache.resetQueries(),
  })

export const useSetPassword = () =>
  useCommand(async (body: { password: string; current?: string }) => void (await data(client.PUT('/api/password', { body }))), {
    onSuccess: (_, __, cache) => {
      void cache.invalidateQueries({ queryKey: keys.reach })
      void cache.invalidateQueries({ queryKey: keys.session })
    },
  })

const reached = { onSuccess: (reach: Schemas['Reach'], _: unknown, cache: QueryClient) => (cache.setQueryData(keys.reach, reach), cache.invalidateQueries({ queryKey: keys.session })) }

/** useOpenToShop lets other computers reach the bench, without a restart. */
export const useOpenToShop = () => useCommand((body: { host: string; password: string }) => data(client.PUT('/api/reach', { body })), reached)

export const useCloseToShop = () => useCommand<void, Schemas['Reach']>(() => data(client.DELETE('/api/reach')), reached)
