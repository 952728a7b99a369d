import { type Client, data, type Schemas } from '../api/client'
import { path, useJobCommand } from '../api/cache'

/** useSetQuote says until when a quote is valid, and which drives it offers. */
export const useSetQuote = (id: string) => useJobCommand((body: Schemas['QuoteChange'], c: Client) => data(c.PUT('/api/jobs/{job}/quote', { ...path(id), body })))

/** useAcceptQuote notes that the customer takes a quote, with the drive. */
export const useAcceptQuote = (id: string) =>
  useJobCommand((new_drive: Schemas['DriveIn'], c: Client) => data(c.PUT('/api/jobs/{job}/accept', { ...path(id), body: { new_drive } })))
