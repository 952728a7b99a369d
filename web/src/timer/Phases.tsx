import type { Timer } from '../api/client'
import type { Clock } from '../api/clock'
import { lasted } from '../ui/format'
import { useLaps } from './Digits'

/** Phases go by underneath as they are split; what does not count is hatched. */
export function Phases({ timer, bench, side }: { timer: Timer; bench: Clock; side: 'then' | 'now' }) {
  const laps = useLaps(timer, bench)
  if (laps.length < 2) return null
  return (
    <ol aria-label="Phases" className="grid gap-px border-t border-base-300 sm:grid-flow-col sm:auto-cols-fr">
      {laps.map((l) => (
        <li
          key={l.id}
          aria-current={l.state === 'running' ? 'step' : undefined}
          className={`flex flex-wrap items-baseline justify-between gap-x-3 px-4 py-3 ${
            l.state === 'running' ? (side === 'then' ? 'bg-then-soft' : 'bg-now-soft') : ''
          } ${l.state === 'ahead' ? 'text-secondary' : ''}`}
        >
          <span className="text-lg">
            {l.name}
            {!l.counts && <span className="text-base text-secondary"> (does not count)</span>}
          </span>
          <span className={`text-2xl font-bold ${l.counts ? '' : 'line-through decoration-1'}`}>{l.state === 'ahead' ? '–' : `${lasted(l.seconds)}`}</span>
        </li>
      ))}
    </ol>
  )
}
