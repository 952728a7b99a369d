import { AlertTriangle, FlaskConical } from 'lucide-react'
import type { ReactNode } from 'react'
import { Refused, refusalOf } from '../api/client'

/** Simulated marks what did not come from a real computer. */
export function Simulated({ small, children = 'simulated' }: { small?: boolean; children?: ReactNode }) {
  return (
    <span
      className={`inline-flex items-center gap-1 rounded-sm border border-dashed border-accent px-1.5 font-semibold tracking-normal text-accent ${small ? 'text-xs' : 'text-sm'}`}
    >
      <FlaskConical size={small ? 12 : 14} aria-hidden /> {children}
    </span>
  )
}

/** Loading says that something is being loaded, for screen readers too. page: it replaces a whole page and keeps its heading. */
export function Loading({ what, page }: { what: string; page?: boolean }) {
  return (
    <>
      {page && <h1 className="sr-only">Loading</h1>}
      <p role="status" className="flex items-center gap-3 p-6 text-secondary">
        <span className="loading loading-dots" aria-hidden /> Getting {what} …
      </p>
    </>
  )
}

/** Refusal says what went wrong, what was kept and what to do. */
export function Refusal({ error, again }: { error: unknown; again?: () => void }) {
  const r = refusalOf(error)
  const more = Object.values(r.fields ?? {}).filter((m) => m !== r.message)
  return (
    <div role="alert" className="rounded-box border-l-4 border-error bg-base-200 p-4">
      <p className="flex items-start gap-2 font-semibold">
        <AlertTriangle className="mt-0.5 shrink-0 text-error" size={20} aria-hidden /> {r.message}
      </p>
      {more.length > 1 && (
        <ul className="mt-2 ml-8 list-disc text-sm">
          {more.slice(0, 8).map((m) => (
            <li key={m}>{m}</li>
          ))}
        </ul>
      )}
      {(r.kept || r.do) && (
        <p className="mt-1 ml-7">
          {r.kept} {r.do}
        </p>
      )}
      {again && (
        <button type="button" className="btn btn-sm mt-3 ml-7" onClick={again}>
          Try again
        </button>
      )}
    </div>
  )
}

/** Empty says that there is nothing yet, and what to do about it. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="rounded-box border border-dashed border-base-300 p-8 text-center">
      <p className="text-lg font-semibold">{title}</p>
      {children && <div className="mt-3 flex flex-wrap justify-center gap-3">{children}</div>}
    </div>
  )
}

/**
 * Query shows what a query gives, or that it is on its way, or why not. What is there stays when a later look at it fails; that is
 * said above it, unless the bench cannot be reached, which the page says as a whole.
 */
export function Query<T>({
  of,
  what,
  page,
  children,
}: {
  of: { data: T | undefined; error: unknown; isPending: boolean; refetch: () => unknown }
  what: string
  /** page: what it gives is the whole page, with its heading. */
  page?: boolean
  children: (data: NonNullable<T>) => ReactNode
}) {
  if (of.data !== undefined && of.data !== null) {
    const unreachable = of.error instanceof Refused && of.error.status === 0
    return (
      <>
        {Boolean(of.error) && !unreachable && <Refusal error={of.error} again={() => void of.refetch()} />}
        {children(of.data)}
      </>
    )
  }
  if (of.error) {
    return (
      <>
        {page && <h1 className="sr-only">Not loaded</h1>}
        <Refusal error={of.error} again={() => void of.refetch()} />
      </>
    )
  }
  return of.isPending ? <Loading what={what} page={page} /> : null
}

/** SideMark is the sign of a side beside its colour: a bar for Then, a disc for Now. */
export function SideMark({ side, size = 12 }: { side: 'then' | 'now'; size?: number }) {
  return (
    <svg viewBox="0 0 12 12" width={size} height={size} aria-hidden className="inline-block shrink-0">
      {side === 'then' ? (
        <rect x="0" y="3" width="12" height="6" rx="1" className="fill-then" />
      ) : (
        <circle cx="6" cy="6" r="5.5" className="fill-now" />
      )}
    </svg>
  )
}

/** sideName names a setup's role as it is on the screen. */
export const sideName = (role: string) => ({ then: 'Then', now: 'Now' })[role] ?? 'Trial'
