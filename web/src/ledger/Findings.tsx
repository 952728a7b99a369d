import { useState } from 'react'
import { Link } from 'react-router'
import type { Ledger, View } from '../api/client'
import { useSetPurpose } from '../side/queries'
import { measurePath } from '../job/paths'
import { byHand, differs } from '../job/view'
import { OpenTimer } from '../timer/OpenTimer'
import { CommandButton } from '../ui/CommandButton'
import { minutes } from '../ui/format'
import { Refusal } from '../ui/parts'
import type { Numbered } from './findings'
import { drivesOut, oddSitting, remedied, partsOf } from './sides'
import { Sign } from './Sign'

/** Findings says each finding once: both values, the lines it touches, and its remedy as a button that starts just that. */
export function Findings(props: { view: View; ledger: Ledger; list: Numbered[]; names: [string, string]; onQuestion: (rule: string) => void; onOpen: (test: string) => void }) {
  const { list } = props
  const strong = list.filter((f) => f.effect !== 'notes')
  const notes = list.filter((f) => f.effect === 'notes')
  if (list.length === 0) return null
  return (
    <section aria-labelledby="findings" className="mt-4 border-t border-base-300 pt-3">
      <h2 id="findings" className="text-lg font-bold">
        {strong.length === 0 ? 'No caveats' : strong.length === 1 ? 'One caveat' : `${strong.length} caveats`}
      </h2>
      <ul>
        {strong.map((f) => (
          <Entry key={f.n} {...props} finding={f} />
        ))}
      </ul>
      {notes.length > 0 && (
        <details>
          <summary className="cursor-pointer text-secondary">{notes.length === 1 ? 'One note' : `${notes.length} notes`}</summary>
          <ul>
            {notes.map((f) => (
              <Entry key={f.n} {...props} finding={f} />
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}

const effects = { blocks: 'Not comparable', qualifies: 'With a caveat', notes: 'Noted' }

const sides = (f: Numbered, names: [string, string]) => [f.then && `${names[0]}: ${f.then}.`, f.with && `${names[1]}: ${f.with}.`].filter(Boolean).join(' ')

function Entry({ view, ledger, finding: f, names, onQuestion, onOpen }: { view: View; ledger: Ledger; finding: Numbered; names: [string, string]; onQuestion: (rule: string) => void; onOpen: (test: string) => void }) {
  const setups = [ledger.then.setup, ledger.with.setup]
  const again = f.minutes > 0 ? remedied(view, setups, f) : undefined
  const differ = Boolean(f.then) === Boolean(f.with)
  const gone = differ && again === 1 && drivesOut(view, setups[0]!)
  // What was found at the old drive alone stays as it is once that has come out.
  const stays = !differ && f.minutes > 0 && again === undefined
  const parts = (['blocks', 'qualifies', 'notes'] as const)
    .map((effect) => [effect, f.rows.filter((r) => f.on.get(r.test.id) === effect)] as const)
    .filter(([, rows]) => rows.length > 0)
  const whole = f.rows.length === ledger.rows.length
  return (
    <li id={`finding-${f.n}`} tabIndex={-1} data-finding={f.rule} className="flex scroll-mt-4 flex-wrap items-start gap-x-4 gap-y-1 border-b border-base-300 py-2">
      <p className="flex-1 basis-96">
        <Sign n={f.n} effect={f.effect} /> <strong>{f.title}.</strong> {sides(f, names)}{' '}
        <span className="text-secondary">
          {stays
            ? `${names[f.then ? 0 : 1]} can’t be measured again.`
            : gone
              ? `${names[0]} can’t be measured again.`
              : f.remedy}
        </span>
        <span className="block text-sm">
          {parts.map(([effect, rows]) => (
            <span key={effect}>
              {parts.length > 1 && `${effects[effect]}: `}
              {whole && parts.length === 1 && rows.length > few ? 'All lines' : <Touched rows={rows} onOpen={onOpen} />}
              {' · '}
            </span>
          ))}
          <button type="button" className="link" onClick={() => onQuestion(f.rule)}>
            This difference is intended
          </button>
        </span>
      </p>
      <OwnQuestion view={view} finding={f} />
      {f.runs.length > 0 && f.rows[0] ? (
        <button type="button" className="btn btn-sm" onClick={() => onOpen(f.rows[0]!.test.id)}>
          {f.runs.length === 1 ? 'Show the run' : `Show the ${f.runs.length} runs`}
        </button>
      ) : (
        again !== undefined && (
          <Remedy view={view} finding={f} setup={partsOf(view, setups[again]!).setup}>
            {gone ? `Measure ${names[1]} like ${names[0]}` : `Measure ${names[again]} again`}, {minutes(f.minutes)}
          </Remedy>
        )
      )}
    </li>
  )
}

/** few is up to how many lines are named at once; more than these are counted, and named when asked for: the lines bear the finding's number. */
const few = 3

/** Touched names the lines that a finding touches. */
function Touched({ rows, onOpen }: { rows: Numbered['rows']; onOpen: (test: string) => void }) {
  const [all, setAll] = useState(rows.length <= few)
  if (!all) {
    return (
      <button type="button" className="link" onClick={() => setAll(true)}>
        {rows.length} lines
      </button>
    )
  }
  return rows.map((r, i) => (
    <span key={r.test.id}>
      {i > 0 && ', '}
      <button type="button" className="link" onClick={() => onOpen(r.test.id)}>
        {r.test.name}
      </button>
    </span>
  ))
}

/** OwnQuestion makes the session whose conditions differ from the others of its side a question of its own, so that the side agrees with itself. */
function OwnQuestion({ view, finding }: { view: View; finding: Numbered }) {
  const set = useSetPurpose(view.id)
  const odd = oddSitting(view, finding)
  if (!odd) return null
  const what = differs(view, odd.id).join(', ')
  return (
    <span>
      <CommandButton of={set} size="sm" onClick={() => set.run({ sitting: odd.id, purpose: 'question', question: what, ...(odd.where && { where: odd.where }) })}>
        Compare “{what}” separately
      </CommandButton>
      {set.error && <Refusal error={set.error} />}
    </span>
  )
}

/** Remedy measures again what a finding touches: what runs unattended in one round, else the first that is timed by hand. */
function Remedy({ view, finding, setup, children }: { view: View; finding: Numbered; setup: string; children: React.ReactNode }) {
  const itself = finding.rows.filter((r) => view.coverage.some((c) => c.test === r.test.id && c.setup === setup && c.automatic))
  const timed = finding.rows.find((r) => byHand(view, r.test))
  const label = <>{children}</>
  if (itself.length > 0) {
    return (
      <Link className="btn btn-sm" to={`${measurePath(view.id, setup)}?${itself.map((r) => `test=${encodeURIComponent(r.test.id)}`).join('&')}`}>
        {label}
      </Link>
    )
  }
  if (!timed) return null
  return (
    <OpenTimer view={view} setup={setup} test={timed.test.id} size="sm">
      {label}
    </OpenTimer>
  )
}
