import { useQuery } from '@tanstack/react-query'
import { client, data, type Schemas } from '../api/client'
import { keys, asBytes } from '../api/cache'
import { useCommand } from '../api/command'

export const useUsual = () => useQuery({ queryKey: ['usual'], queryFn: () => data(client.GET('/api/settings/usual')) })

/** useLearn learns again what is usual in this shop. */
export const useLearn = () =>
  useCommand((_: void, c) => data(c.POST('/api/settings/usual')), {
    onSuccess: (usual, _, cache) => {
      cache.setQueryData(['usual'], usual)
      void cache.invalidateQueries({ predicate: (q) => q.queryKey.includes('ledger') || q.queryKey.includes('report') })
    },
  })

/** usePrices are the drives of the shop's price list. */
export const usePrices = () =>
  useQuery({
    queryKey: ['prices'],
    queryFn: () => data(client.GET('/api/settings/prices', { headers: { Accept: 'application/json' } })) as Promise<Schemas['Priced'][]>,
  })

/** useSetPrices replaces the price list by a file. */
export const useSetPrices = () =>
  useCommand((file: File, c) => data(c.PUT('/api/settings/prices', { ...asBytes(file), headers: { 'Content-Type': 'text/csv' } })), {
    onSuccess: (_, __, cache) => {
      void cache.invalidateQueries({ queryKey: ['prices'] })
    },
  })

export const useSettings = () => useQuery({ queryKey: keys.settings, queryFn: () => data(client.GET('/api/settings')), staleTime: 0 })

export const useShop = () => useQuery({ queryKey: ['shop'], queryFn: () => data(client.GET('/api/settings/shop')) })

/** useSetShop sets what holds for all jobs of the shop. */
export const useSetShop = () =>
  useCommand((body: Schemas['Shop'], c) => data(c.PUT('/api/settings/shop', { body })), {
    onSuccess: (shop, _, cache) => {
      cache.setQueryData(['shop'], shop)
      void cache.invalidateQueries({ predicate: (q) => q.queryKey.includes('ledger') || q.queryKey.includes('report') || q.queryKey.includes('templates') })
    },
  })
