import createClient, { createQuerySerializer } from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
/** Bare is a job without its runs, as commands answer it. */
export type Bare = Schemas['View']
/** View is a job with its runs, which pages fetch separately. */
export type View = Omit<Bare, 'job'> & { job: Bare['job'] & { runs: Run[] } }
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
export type Probe = Schemas['Probe']
export type Timer = Schemas['Timer']
export type Ledger = Schemas['Ledger']
export type Row = Schemas['Row']
export type Finding = Schemas['Finding']
export type Document = Schemas['Document']
type Problem = Schemas['Problem']

/** Refusal is why something was not done, in words. */
export type Refusal = Schemas['Refusal'] & Pick<Problem, 'lost' | 'ask' | 'already'>
export type Step = Schemas['Step']

const base = window.location.origin

export const client = createClient<paths>({ baseUrl: base, fetch: (r) => fetch(r) })

/** Client is the bench's API client. */
export type Client = typeof client

const queries = createQuerySerializer()

/** keyed is a client for one action of the user: repeats change nothing. Jobs come back without their runs. */
export const keyed = (key: string): Client =>
  createClient<paths>({ baseUrl: base, headers: { 'Idempotency-Key': key }, querySerializer: (query) => queries({ ...query, runs: 'none' }) })

/** Refused is why the bench did not do something: what is wrong, what was kept, what to do. */
export class Refused extends Error {
  readonly refusal: Refusal
  readonly status: number
  /** doubtful: it is done if the user confirms it. */
  readonly doubtful: boolean

  constructor(refusal: Refusal, status: number, type = '') {
    super(refusal.message)
    this.refusal = refusal
    this.status = status
    this.doubtful = type.endsWith(':doubtful')
  }

  /** unanswered reports whether the outcome of the command is unknown: the connection was lost, or the bench failed. */
  get unanswered() {
    return this.status === 0 || this.status >= 500
  }
}

const unreachable: Refusal = {
  message: 'The bench does not answer.',
  kept: 'Everything that was stored before is kept.',
  do: 'Check that the program is still running, then try again.',
}

/** data waits for an answer and returns its data, or throws a Refused. */
export async function data<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got
  try {
    got = await answer
  } catch {
    throw new Refused(unreachable, 0)
  }
  if (!got.response.ok) {
    const p = got.error as Problem | undefined
    const { detail, kept, do: what, fields, lost, ask, already } = p ?? {}
    throw new Refused({ message: detail ?? `The bench answered with ${got.response.status}.`, kept, do: what, fields, lost, ask, already }, got.response.status, p?.type)
  }
  return got.data as T
}

/** refusalOf turns whatever was thrown into words for the screen. */
export function refusalOf(error: unknown): Refusal {
  if (error instanceof Refused) return error.refusal
  return { message: error instanceof Error ? error.message : String(error) }
}
