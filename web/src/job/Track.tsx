import type { Step } from '../api/client'

const labels: Record<string, string> = {
  intake: 'Intake',
  then: 'Measure Then',
  'old-drive-out': 'Old drive comes out',
  now: 'Measure Now',
  'measured-again': 'Measured again',
  compare: 'Result and report',
  'handed-back': 'Handed back',
}

/** whereItIs says in words at which station a job stands. */
function whereItIs(steps: Step[]): string {
  const here = steps.find((s) => s.state === 'here')
  return here ? (labels[here.name] ?? 'Measure the drives') : 'Finished'
}

/** Track shows where a job is on its way, with the gates standing across it. */
export function Track({ steps }: { steps: Step[] }) {
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
