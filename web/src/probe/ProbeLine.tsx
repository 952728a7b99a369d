import { useState } from 'react'
import { Link } from 'react-router'
import type { Probe, Setup, View } from '../api/client'
import { useDismissProbe, useDoing, useProbes, useStayProbe, useTakeFacts } from './queries'
import { sidePath } from '../job/paths'
import { setupName, setupOf, simulatedOn } from '../job/view'
import { CommandButton } from '../ui/CommandButton'
import { Refusal, Simulated } from '../ui/parts'
import { Undo } from '../ui/Undo'
import { Waiting } from '../stick/Waiting'
import { PrepareStick } from '../stick/Sticks'
import { Pairing } from './Pairing'
import { doingWords, readsFiles, seenDrive } from './probe'

/** ProbeLine says whether the customer's computer has joined, and lets it join. */
export function ProbeLine({ view, setup }: { view: View; setup?: Setup }) {
  const probes = useProbes(view.id)
  const [pairing, setPairing] = useState(false)
  const [sent, setSent] = useState<Probe>() // was told to leave just now
  const stay = useStayProbe(view.id)
  const list = probes.data ?? []
  // A computer that the bench itself simulates needs no probe.
  if (list.length === 0 && view.job.setups.some((s) => simulatedOn(view, s))) return null
  return (
    <section aria-labelledby="probe" className="pt-1">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <h2 id="probe" className="font-bold">
          Customer’s computer
        </h2>
        {list.length === 0 && (
          <>
            <p className="flex-1 basis-60 text-secondary">The probe has not joined. Start it from the shop’s stick. Without it, unattended tests run on this computer.</p>
            {!pairing && (
              <button type="button" className="btn btn-sm" onClick={() => setPairing(true)}>
                Join with a code
              </button>
            )}
            <PrepareStick size="sm" />
          </>
        )}
        {list.map((p) => (
          <Joined key={p.id} view={view} setup={setup} probe={p} onLeaving={() => setSent(p)} />
        ))}
      </div>
      {sent && <Undo what={`${sent.name} is disconnected.`} onUndo={() => stay.run(sent.id, () => setSent(undefined))} onGone={() => setSent(undefined)} />}
      {Boolean(probes.error ?? stay.error) && <Refusal error={probes.error ?? stay.error} />}
      <Waiting job={view.id} />
      {pairing && list.length === 0 && <Pairing job={view.id} onCancel={() => setPairing(false)} />}
    </section>
  )
}

const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1)

/** stateOf says how a probe stands. */
function stateOf(p: Probe): { words: string; tone: string } {
  if (p.leaving) return { words: 'leaving', tone: 'text-secondary' }
  if (p.away) return { words: 'away: it keeps its results and sends them when it is back', tone: 'text-warning' }
  if (p.busy) return { words: readsFiles(p) ? 'reading files' : 'measuring', tone: 'text-success' }
  return { words: 'joined', tone: 'text-success' }
}

function Joined({ view, setup, probe: p, onLeaving }: { view: View; setup?: Setup; probe: Probe; onLeaving: () => void }) {
  const dismiss = useDismissProbe(view.id)
  const doing = useDoing(view.id)
  const take = useTakeFacts(view.id)
  const state = stateOf(p)
  const elsewhere = setup && p.setup !== setup.id ? setupOf(view, p.setup) : undefined
  return (
    <>
      <p className="flex flex-1 basis-60 flex-wrap items-baseline gap-x-3">
        <span className="font-semibold">{p.name}</span>
        {p.simulated && <Simulated small />}
        <span>{seenDrive(p)}</span>
        <span role="status" className={state.tone}>
          {state.words}
        </span>
      </p>
      <CommandButton of={dismiss} size="sm" disabled={p.leaving} onClick={() => dismiss.run(p.id, onLeaving)}>
        Disconnect
      </CommandButton>
      {elsewhere && (
        <p className="basis-full text-warning">
          The drive of <Link className="link" to={sidePath(view.id, elsewhere)}>{setupName(elsewhere)}</Link> is in it now.
        </p>
      )}
      {p.contradictions.length > 0 && (
        <div className="flex basis-full flex-wrap items-end gap-x-4 gap-y-1 text-warning">
          <ul>
            {p.contradictions.map((c) => (
              <li key={c.what}>
                {capital(c.what)}: noted {c.noted}, but the computer says {c.seen}.
              </li>
            ))}
          </ul>
          <CommandButton of={take} size="sm" onClick={() => take.run({ probe: p.id, setup: p.setup, instead: true })}>
            Use what the computer says
          </CommandButton>
        </div>
      )}
      {p.doings.length > 0 && (
        <details className="basis-full">
          <summary className="cursor-pointer text-sm text-accent">What happens to the simulated computer</summary>
          <div className="flex flex-wrap gap-2 pt-2">
            {p.doings.map((what) => (
              <CommandButton key={what} of={doing} size="sm" disabled={p.away} onClick={() => doing.run({ probe: p.id, what })}>
                {doingWords[what] ?? what}
              </CommandButton>
            ))}
          </div>
        </details>
      )}
      {Boolean(dismiss.error ?? doing.error ?? take.error) && (
        <div className="basis-full">
          <Refusal error={dismiss.error ?? doing.error ?? take.error} />
        </div>
      )}
    </>
  )
}
