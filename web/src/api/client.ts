import createClient from 'openapi-fetch'
import { newKey } from './key'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type View = Schemas['View']
export type Board = Schemas['Board']
export type Card = Schemas['Card']
export type Entry = Schemas['Entry']
export type Template = Schemas['Template']
export type VisitStep = Schemas['VisitStep']
export type Test = Schemas['Test']
export type Run = Schemas['Run']
export type Setup = Schemas['Setup']
export type Drive = Schemas['Drive']
export type Conditions = Schemas['Conditions']
export type Measuring = Schemas['Measuring']
export type Timer = Schemas['Timer']
export type Ledger = Schemas['Ledger']
export type Row = Schemas['Row']
export type Finding = Schemas['Finding']
export type Report = Schemas['Report']
export type Document = Schemas['Document']
export type Refusal = Schemas['Refusal']
export type Step = Schemas['Step']

export const client = createClient<paths>({ baseUrl: window.location.origin })

// A command that is sent twice (a double click, a retry) is done once.
client.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('Idempotency-Key', newKey())
    return request
  },
})

/** Refused is why the bench did not do something: what is wrong, what was kept, what to do. */
export class Refused extends Error {
  readonly refusal: Refusal
  readonly status: number

  constructor(refusal: Refusal, status: number) {
    super(refusal.message)
    this.refusal = refusal
    this.status = status
  }
}

const unreachable: Refusal = {
  message: 'The bench does not answer.',
  kept: 'Everything that was stored before is kept.',
  do: 'Look whether the program is still running, then try again.',
}

/** data waits for an answer and returns what it holds, or throws a Refused. */
export async function data<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got
  try {
    got = await answer
  } catch {
    throw new Refused(unreachable, 0)
  }
  if (!got.response.ok) {
    const e = got.error as Refusal | undefined
    throw new Refused(e?.message ? e : { message: `The bench answered with ${got.response.status}.` }, got.response.status)
  }
  return got.data as T
}

/** refusalOf turns whatever was thrown into words for the screen. */
export function refusalOf(error: unknown): Refusal {
  if (error instanceof Refused) return error.refusal
  return { message: error instanceof Error ? error.message : String(error) }
}
