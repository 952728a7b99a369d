import { Check } from 'lucide-react'
import type { Step } from '../api/client'

const labels: Record<Step['name'], string> = {
  intake: 'Intake',
  then: 'Measure Then',
  'old-drive-out': 'Old drive comes out',
  now: 'Measure Now',
  'measured-again': 'Measured again',
  compare: 'Ledger and report',
  'handed-back': 'Handed back',
}

/** whereItIs says in words at which station a job stands. */
export function whereItIs(steps: Step[]): string {
  const here = steps.find((s) => s.state === 'here')
  return here ? labels[here.name] : 'Finished'
}

/** Track shows where a job is on its way, with the gates standing across it. */
export function Track({ steps, small }: { steps: Step[]; small?: boolean }) {
  if (small) {
    const words = whereItIs(steps)
    return (
      <span role="img" aria-label={`Where it is: ${words}`} title={words} className="flex items-center gap-1">
        {steps.map((s) => (
          <span
            key={s.name}
            className={`${s.gate ? 'h-5 w-1' : 'h-2 w-6'} rounded-full ${
              s.state === 'done' ? 'bg-base-content' : s.state === 'here' ? 'bg-accent' : 'bg-base-300'
            }`}
          />
        ))}
      </span>
    )
  }
  return (
    <ol className="flex flex-wrap items-stretch gap-1.5" aria-label="Where the job is">
      {steps.map((s) => (
        <li
          key={s.name}
          aria-current={s.state === 'here' ? 'step' : undefined}
          className={`flex min-w-0 flex-1 basis-28 items-center gap-1.5 border-b-4 px-1 py-1.5 text-sm leading-tight ${
            s.state === 'here'
              ? 'border-accent font-bold text-base-content'
              : s.state === 'done'
                ? 'border-base-content'
                : 'border-base-300 text-secondary'
          } ${s.gate ? 'border-x-4 px-2' : ''}`}
        >
          {s.state === 'done' && <Check size={16} className="shrink-0" aria-label="done" />}
          {labels[s.name]}
        </li>
      ))}
    </ol>
  )
}
