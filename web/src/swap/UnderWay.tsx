import type { Probe } from '../api/client'
import { CommandButton } from '../ui/CommandButton'
import { Refusal } from '../ui/parts'
import { underWay } from './checkForm'
import { useStopCheck } from './queries'

/** UnderWay says how far a probe is with a check of the drive or with reading files; stop is the word on the button that ends it. */
export function UnderWay({ job, probe, stop: word }: { job: string; probe: Probe; stop: string }) {
  const stop = useStopCheck(job)
  const c = probe.checking!
  return (
    <div className="flex flex-wrap items-center gap-3 pt-2">
      <p role="status" className="min-w-72 font-semibold tabular-nums">
        {probe.away ? 'away: it resumes when it is back' : underWay(c)}
      </p>
      <progress className="progress progress-primary w-56" max={1} value={c.done} aria-label="How far it is" />
      <CommandButton of={stop} size="sm" onClick={() => stop.run(probe.id)}>
        {word}
      </CommandButton>
      {stop.error && <Refusal error={stop.error} />}
    </div>
  )
}
