import { useQuery } from '@tanstack/react-query'
import { client, data } from '../api/client'

/** useKnown is what all finished jobs tell. */
export const useKnown = () => useQuery({ queryKey: ['known'], queryFn: () => data(client.GET('/api/known')) })
