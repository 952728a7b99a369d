import { useQuery } from '@tanstack/react-query'
import { client, data, Refused, type Schemas } from '../api/client'
import { keys, takeJob } from '../api/cache'
import { useCommand } from '../api/command'

/** useOffers are the computers that wait to be admitted. That one comes is an event; that one gives up is not. */
export const useOffers = () =>
  useQuery({ queryKey: keys.offers, queryFn: () => data(client.GET('/api/offers')), refetchInterval: (q) => (q.state.data?.length ? 3000 : false) })

/** useAdmit admits a waiting computer to a job, or opens a new one for it. */
export const useAdmit = () =>
  useCommand(({ offer, job }: { offer: string; job?: string }, c) => data(c.POST('/api/offers/{offer}/admit', { params: { path: { offer } }, body: { job: job ?? '' } })), {
    onSuccess: (view, _, cache) => {
      takeJob(view, cache)
      void cache.invalidateQueries({ queryKey: keys.offers })
      void cache.invalidateQueries({ queryKey: keys.probes(view.id) })
    },
  })

export const useDismissOffer = () =>
  useCommand((offer: string, c) => data(c.DELETE('/api/offers/{offer}', { params: { path: { offer } } })), {
    onSuccess: (offers, _, cache) => cache.setQueryData(keys.offers, offers),
  })

export const useSticks = () => useQuery({ queryKey: keys.sticks, queryFn: () => data(client.GET('/api/sticks')) })

export const useRevokeStick = () =>
  useCommand((stick: string, c) => data(c.DELETE('/api/sticks/{stick}', { params: { path: { stick } } })), {
    onSuccess: (sticks, _, cache) => cache.setQueryData(keys.sticks, sticks),
  })

/** usePrepareStick fetches the zip for a stick and hands it to the browser as a download. */
export const usePrepareStick = () =>
  useCommand<void, void>(
    async () => {
      const answer = await client.POST('/api/sticks', { parseAs: 'blob' })
      if (!answer.response.ok) {
        const p = answer.error as Schemas['Problem'] | undefined
        throw new Refused({ message: p?.detail ?? `The bench answered with ${answer.response.status}.`, kept: p?.kept, do: p?.do }, answer.response.status)
      }
      const link = document.createElement('a')
      link.href = URL.createObjectURL(answer.data as unknown as Blob)
      link.download = 'nowthen-stick.zip'
      link.click()
      setTimeout(() => URL.revokeObjectURL(link.href), 60_000)
    },
    { onSuccess: (_, __, cache) => cache.invalidateQueries({ queryKey: keys.sticks }) },
  )

