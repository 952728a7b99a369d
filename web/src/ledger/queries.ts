import { useQuery } from '@tanstack/react-query'
import { client, type Client, data, type Schemas } from '../api/client'
import { keys, path, useJobCommand } from '../api/cache'

/** Compared is what is compared: two setups, Then and Now where none are named, and the rule whose difference is the question. */
export type Compared = { then?: string; with?: string; intended?: string }

/** useLedger sets two setups against each other. */
export const useLedger = (id: string, of: Compared = {}, enabled = true) =>
  useQuery({
    queryKey: [...keys.ledger(id), of.then, of.with, of.intended],
    queryFn: () => data(client.GET('/api/jobs/{job}/ledger', { params: { path: { job: id }, query: of } })),
    placeholderData: (before) => before,
    enabled,
  })

/** useCandidates are the drives that were measured, against the base (Then, or a comparison's first) and against each other. */
export const useCandidates = (id: string, enabled: boolean, base?: string) =>
  useQuery({
    queryKey: [...keys.ledger(id), 'candidates', base],
    queryFn: () => data(client.GET('/api/jobs/{job}/candidates', { params: { path: { job: id }, query: { base } } })),
    placeholderData: (before) => before,
    enabled,
  })

/** useReference is a drive of an earlier job beside the lines, by that job's number. */
export const useReference = (id: string, number: string | null, setup: string | null) =>
  useQuery({
    queryKey: [...keys.ledger(id), 'reference', number, setup],
    queryFn: () => data(client.GET('/api/jobs/{job}/reference', { params: { path: { job: id }, query: { number: number!, ...(setup && { setup }) } } })),
    placeholderData: (before) => before,
    enabled: number !== null,
  })

/** useSetBill stores the cost of the work; the ledger relates it to the benefit. */
export const useSetBill = (id: string) => useJobCommand((body: Schemas['BillIn'], c: Client) => data(c.PUT('/api/jobs/{job}/bill', { ...path(id), body })))
