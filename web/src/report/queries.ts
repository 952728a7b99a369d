import { useQuery } from '@tanstack/react-query'
import { client, type Client, data, type Schemas } from '../api/client'
import { keys, path, useJobCommand } from '../api/cache'
import { useCommand } from '../api/command'

/** Lang is a language of reports. */
export type Lang = 'en' | 'de'

export const useReport = (id: string, lang: Lang) =>
  useQuery({
    queryKey: [...keys.report(id), lang],
    queryFn: () => data(client.GET('/api/jobs/{job}/report', { params: { path: { job: id }, query: { lang } } })),
    placeholderData: (before) => before,
  })

export const useShares = (id: string) =>
  useQuery({ queryKey: ['job', id, 'shares'], queryFn: () => data(client.GET('/api/jobs/{job}/shares', path(id))), refetchInterval: 30_000 })

export const useMakeShare = (id: string) =>
  useCommand((days: number, c) => data(c.POST('/api/jobs/{job}/shares', { ...path(id), body: { days } })), {
    onSuccess: (_, __, cache) => cache.invalidateQueries({ queryKey: ['job', id, 'shares'] }),
  })

export const useRevokeShare = (id: string) =>
  useCommand((share: string, c) => data(c.DELETE('/api/jobs/{job}/shares/{share}', { params: { path: { job: id, share } } })), {
    onSuccess: (list, _, cache) => cache.setQueryData(['job', id, 'shares'], list),
  })

/** useRevisions are all reports that were issued of a job. */
export const useRevisions = (id: string) => useQuery({ queryKey: [...keys.report(id), 'revisions'], queryFn: () => data(client.GET('/api/jobs/{job}/reports', path(id))) })

export const useChooseForReport = (id: string) => useJobCommand((body: Schemas['DraftIn'], c: Client) => data(c.PUT('/api/jobs/{job}/report/draft', { ...path(id), body })))

export const useIssueReport = (id: string) =>
  useCommand((lang: Lang, c) => data(c.POST('/api/jobs/{job}/report', { params: { path: { job: id }, query: { lang } } })), {
    onSuccess: (report, lang, cache) => {
      cache.setQueryData([...keys.report(id), lang], report)
      void cache.invalidateQueries({ queryKey: keys.job(id) })
    },
  })

/** useWithdraw undoes a report that was issued. */
export const useWithdraw = (id: string) =>
  useJobCommand((revision: number, c: Client) => data(c.DELETE('/api/jobs/{job}/reports/{revision}', { params: { path: { job: id, revision: String(revision) } } })))
