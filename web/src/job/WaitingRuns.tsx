import type { Schemas, View } from '../api/client'
import { useAcceptWaiting, useDiscardWaiting } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { figure, time } from '../ui/format'
import { Refusal } from '../ui/parts'

type Waiting = Schemas['WaitingRun']

/** WaitingRuns are runs that nobody at the bench asked for: each is accepted or discarded. */
export function WaitingRuns({ view }: { view: View }) {
  const waiting = view.job.job.waiting ?? []
  const open = waiting.filter((w) => !w.discarded)
  const discarded = waiting.filter((w) => w.discarded)
  if (waiting.length === 0) return null
  return (
    <section aria-labelledby="waiting" className="mb-4 rounded-box border-l-4 border-warning bg-base-200 p-4">
      <h2 id="waiting" className="text-lg font-bold">
        Runs to check
      </h2>
      {open.length > 0 && <p>Nobody at the bench asked for these. They count only after you accept them.</p>}
      <ul>
        {open.map((w) => (
          <Line key={w.run.id} view={view} of={w} />
        ))}
      </ul>
      {discarded.length > 0 && (
        <details className="mt-2">
          <summary className="cursor-pointer">{discarded.length === 1 ? '1 discarded run' : `${discarded.length} discarded runs`}</summary>
          <ul>
            {discarded.map((w) => (
              <Line key={w.run.id} view={view} of={w} />
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}

function Line({ view, of }: { view: View; of: Waiting }) {
  const accept = useAcceptWaiting(view.id)
  const discard = useDiscardWaiting(view.id)
  const test = view.job.tests.find((t) => t.id === of.run.test)
  const from = of.from === 'link' ? 'timed by the customer at home' : `sent by a probe: ${of.why}`
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-base-300 py-2">
      <p className="min-w-0 flex-1 basis-64">
        <strong>
          {test?.name ?? of.run.test}: {figure(of.run.value, test?.unit ?? '')}
        </strong>{' '}
        <span className="text-secondary">
          {from}, {time(of.at)}
        </span>
      </p>
      <CommandButton size="sm" of={accept} aria-label={`Accept ${test?.name ?? of.run.test}, ${figure(of.run.value, test?.unit ?? '')}`} onClick={() => accept.run(of.run.id)}>
        Accept
      </CommandButton>
      {!of.discarded && (
        <CommandButton size="sm" of={discard} aria-label={`Discard ${test?.name ?? of.run.test}, ${figure(of.run.value, test?.unit ?? '')}`} onClick={() => discard.run(of.run.id)}>
          Discard
        </CommandButton>
      )}
      {accept.error && <Refusal error={accept.error} />}
      {discard.error && <Refusal error={discard.error} />}
    </li>
  )
}
