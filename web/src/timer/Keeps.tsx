import { useMemo, useState } from 'react'
import { CommandButton } from '../ui/CommandButton'
import { useShortcuts } from '../ui/shortcuts'
import type { Timing } from './useTiming'

/** reasons are why a timed run doesn't count, usually. */
const reasons = ['The phone rang', 'Pressed wrong', 'An update came', 'Something else went wrong']

/** Why asks why a run is set aside; the run is kept with it. */
function Why({ of, onReason, onBack }: { of: Timing['keep']; onReason: (why: string) => void; onBack: () => void }) {
  return (
    <div role="group" aria-label="Why it is set aside" className="flex flex-wrap items-center justify-center gap-3">
      <span className="font-semibold">Why?</span>
      {reasons.map((r, i) => (
        <CommandButton key={r} of={of} size="lg" autoFocus={i === 0} onClick={() => onReason(r)}>
          {r}
        </CommandButton>
      ))}
      <button type="button" className="btn btn-ghost btn-lg" onClick={onBack}>
        Back
      </button>
    </div>
  )
}

/** Keeps are the choices for a stopped time: keep it, and what to time next; or set it aside, with a reason. */
export function Keeps({ of }: { of: Timing }) {
  const { keep, keepIt, follower, cover } = of
  const [asking, setAsking] = useState(false)
  const more = cover !== undefined && cover.kept + 1 < cover.wanted
  useShortcuts(
    useMemo(
      () => [
        { key: 'k', label: 'Keep', run: () => keepIt({}) },
        ...(follower ? [{ key: 'n', label: 'Keep, and time what follows', run: () => keepIt({ next: true }) }] : []),
        { key: 'a', label: 'Keep and run again', run: () => keepIt({ again: true }) },
        { key: 'f', label: 'Keep, five more runs', run: () => keepIt({ series: 5 }) },
        { key: 'd', label: 'Set aside, with a reason', run: () => setAsking(true) },
      ],
      [keepIt, follower],
    ),
  )
  // A run that went wrong is kept as well, with why it doesn't count; the timer is ready for the next.
  if (asking) return <Why of={keep} onReason={(set_aside) => keepIt({ again: true, set_aside })} onBack={() => setAsking(false)} />
  return (
    <>
      {follower ? (
        <CommandButton of={keep} tone="primary" size="lg" onClick={() => keepIt({ next: true })}>
          Keep, next: {follower.name} <kbd className="key max-sm:hidden">n</kbd>
        </CommandButton>
      ) : (
        more && (
          <CommandButton of={keep} tone="primary" size="lg" onClick={() => keepIt({ again: true })}>
            Keep, next ({cover.kept + 2} of {cover.wanted}) <kbd className="key max-sm:hidden">a</kbd>
          </CommandButton>
        )
      )}
      <CommandButton of={keep} tone={follower || more ? 'plain' : 'primary'} size="lg" onClick={() => keepIt({})}>
        Keep <kbd className="key max-sm:hidden">k</kbd>
      </CommandButton>
      {(follower || !more) && (
        <CommandButton of={keep} size="lg" onClick={() => keepIt({ again: true })}>
          Keep and run again <kbd className="key max-sm:hidden">a</kbd>
        </CommandButton>
      )}
      <CommandButton of={keep} size="lg" onClick={() => keepIt({ series: 5 })}>
        Keep, five more runs <kbd className="key max-sm:hidden">f</kbd>
      </CommandButton>
      <button type="button" className="btn btn-lg" onClick={() => setAsking(true)}>
        Set aside <kbd className="key max-sm:hidden">d</kbd>
      </button>
    </>
  )
}
