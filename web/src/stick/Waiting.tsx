import { useNavigate } from 'react-router'
import type { Schemas } from '../api/client'
import { CommandButton } from '../ui/CommandButton'
import { capacity } from '../ui/format'
import { Refusal, Simulated } from '../ui/parts'
import { useAdmit, useDismissOffer, useOffers } from './queries'

/** Waiting shows the computers that wait to be admitted: to the job it stands on, or to a new one. */
export function Waiting({ job }: { job?: string }) {
  const offers = useOffers()
  const admit = useAdmit()
  const dismiss = useDismissOffer()
  const go = useNavigate()
  const list = offers.data ?? []
  const error = admit.error ?? dismiss.error
  return (
    <div aria-live="polite" className={list.length > 0 || error ? 'flex basis-full flex-col gap-3 py-2' : ''}>
      {list.map((o) => (
        <section key={o.id} aria-label={`Computer ${o.digits} is waiting`} className="sheet flex flex-wrap items-center gap-x-5 gap-y-2 border-l-8 border-now p-3">
          <span className="text-5xl font-bold tracking-widest">{o.digits}</span>
          <p className="flex-1 basis-60">
            <strong className="flex flex-wrap items-baseline gap-x-2">
              {o.name} {o.simulated && <Simulated small />}
            </strong>
            <span className="text-secondary">{[o.system, driveWords(o)].filter(Boolean).join(' · ')}</span>
            <span className="block text-secondary">Its screen shows {o.digits}. If it shows other digits, dismiss it.</span>
          </p>
          {job ? (
            <CommandButton of={admit} tone="primary" onClick={() => admit.run({ offer: o.id, job })}>
              Admit {o.digits} to this job
            </CommandButton>
          ) : (
            <CommandButton of={admit} tone="primary" onClick={() => admit.run({ offer: o.id }, (view) => void go(`/jobs/${view.id}`))}>
              New job for {o.digits}
            </CommandButton>
          )}
          <CommandButton of={dismiss} tone="ghost" onClick={() => dismiss.run(o.id)}>
            Dismiss
          </CommandButton>
        </section>
      ))}
      {error && <Refusal error={error} />}
    </div>
  )
}

/** driveWords name the drive that a waiting computer started from. */
function driveWords({ drive: d }: Schemas['WaitingComputer']): string {
  return d ? [[d.maker, d.model].filter(Boolean).join(' '), d.capacity_bytes ? capacity(d.capacity_bytes) : ''].filter(Boolean).join(', ') : ''
}
