import { useQuery } from '@tanstack/react-query'
import { client, data } from '../api/client'
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
