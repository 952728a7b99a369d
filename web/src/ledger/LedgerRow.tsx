import { ChevronDown, OctagonX, TriangleAlert } from 'lucide-react'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { Finding, Row, Run, View } from '../api/client'
import { OpenTimer } from '../timer/OpenTimer'
import { closerPath, measurePath, racePath } from '../job/paths'
import { drivesOut, remedied, setupOfSide } from './sides'
import { byHand } from '../job/view'
import { minutes } from '../ui/format'
import { RunTable } from './RunTable'
import { Scale } from './Scale'

/** LedgerRow is one line: both sides on one scale, what it comes to in words, and what is in doubt. */
export function LedgerRow(props: { view: View; row: Row; names: [string, string]; setups: string[]; findings: Finding[]; onQuestion: (rule: string) => void }) {
  const { view, row, names, setups, findings, onQuestion } = props
  const { words, test } = row
  const inPlace = findings.filter((f) => f.effect !== 'notes')
  const aside = findings.filter((f) => f.effect === 'notes' && f.rule !== 'simulated')
  return (
    <article aria-label={test.name} className="border-b border-base-300 py-3">
      <div className="grid items-center gap-x-6 gap-y-2 md:grid-cols-[12rem_minmax(0,1fr)_15rem]">
        <div>
          <h3 className="text-lg leading-tight font-bold">{test.name}</h3>
          {words.then && <p className="font-semibold text-then">{names[0]} {words.then}</p>}
          {words.with && <p className="font-semibold text-now">{names[1]} {words.with}</p>}
        </div>
        <Scale row={row} />
        <Verdict view={view} row={row} names={names} setups={setups} />
      </div>
      {inPlace.map((f) => (
        <InPlace key={f.rule + f.effect + f.then + f.with} view={view} row={row} names={names} setups={setups} finding={f} onQuestion={onQuestion} />
      ))}
      <details className="group mt-1">
        <summary className="inline-flex cursor-pointer items-center gap-1 text-sm text-secondary">
          <ChevronDown size={16} className="group-open:rotate-180" aria-hidden />
          {row.then_runs.length + row.with_runs.length} runs
          {aside.length > 0 && `, ${aside.length} ${aside.length === 1 ? 'note' : 'notes'}`}
        </summary>
        {[...row.then_runs, ...row.with_runs].some(looksDeeper) && (
          <Link className="btn btn-sm mt-2" to={closerPath(view.id, test.id)}>
            Look closer: distribution, rate over time
          </Link>
        )}
        <div className="grid gap-6 pt-2 md:grid-cols-2">
          <RunTable view={view} test={test} runs={row.then_runs} side="then" title={names[0]} />
          <RunTable view={view} test={test} runs={row.with_runs} side="now" title={names[1]} />
        </div>
        {aside.map((f) => (
          <p key={f.rule + f.then + f.with} className="mt-2 text-sm">
            <strong>{f.title}.</strong> {sides(f, names)} {f.remedy}
          </p>
        ))}
        {words.share && <p className="mt-2 text-sm">{words.share}</p>}
      </details>
    </article>
  )
}

function Verdict({ view, row, names, setups }: { view: View; row: Row; names: [string, string]; setups: string[] }) {
  const { line, words } = row
  const missing = line.verdict === 'not-measured'
  const big = missing ? (line.then ? `${names[1]} is missing` : line.with ? `${names[0]} is missing` : 'Not measured yet') : words.factor
  const doubt = words.doubt !== '' || (line.verdict !== 'faster' && line.verdict !== 'slower')
  return (
    <div className="md:text-right">
      <p className={doubt ? 'text-lg font-semibold text-secondary' : 'text-2xl leading-tight font-bold'}>{big}</p>
      {words.waiting && (
        <p className="font-semibold">
          {words.waiting}, {words.saves}
        </p>
      )}
      {words.range && <p className="text-sm text-secondary">{words.range}</p>}
      {words.keeps_up && <p className="text-sm">{words.keeps_up}</p>}
      {words.doubt && <p className="text-sm font-semibold text-warning">{words.doubt}</p>}
      {words.further && <p className="text-sm text-secondary">{words.further}</p>}
      {line.then && line.with && row.test.unit === 's' && row.test.kind !== 'control' && (
        <Link className="link text-sm" to={`${racePath(view.id, row.test.id)}?setups=${setups.join(',')}`} aria-label={`Watch the race: ${row.test.name}`}>
          Watch the race
        </Link>
      )}
      {!doubt && row.test.kind === 'timed' && !line.felt && <p className="text-sm text-secondary">too small to be felt</p>}
    </div>
  )
}

/** looksDeeper tells whether a run has more to show than its value. */
const looksDeeper = (r: Run) => Boolean(r.latency || r.series || r.curve || r.files)

const sides = (f: Finding, names: [string, string]) => [f.then && `${names[0]}: ${f.then}.`, f.with && `${names[1]}: ${f.with}.`].filter(Boolean).join(' ')

/** InPlace says what is in doubt where it is in doubt, with the remedy as a button for a side that is compared. */
function InPlace(props: { view: View; row: Row; names: [string, string]; setups: string[]; finding: Finding; onQuestion: (rule: string) => void }) {
  const { view, row, names, setups, finding, onQuestion } = props
  const blocks = finding.effect === 'blocks'
  const again = finding.minutes > 0 && row.test.kind !== 'note' ? remedied(view, setups) : undefined
  const gone = again === 1 && drivesOut(view, setups[0]!)
  return (
    <div
      className={`mt-2 flex flex-wrap items-center gap-x-4 gap-y-2 border-l-4 py-1 pl-3 ${blocks ? 'border-error' : 'border-warning'}`}
    >
      <p className="flex-1 basis-80">
        {blocks ? (
          <OctagonX size={18} className="mr-1.5 inline align-text-bottom text-error" aria-label="Not comparable" />
        ) : (
          <TriangleAlert size={18} className="mr-1.5 inline align-text-bottom text-warning" aria-label="With a caveat" />
        )}
        <strong>{finding.title}.</strong> {sides(finding, names)}{' '}
        <span className="text-secondary">
          {gone ? `${names[0]} can’t be measured again. Measure ${names[1]} the way ${names[0]} was, or keep the caveat.` : finding.remedy}
        </span>{' '}
        <button type="button" className="link text-sm" onClick={() => onQuestion(finding.rule)}>
          This difference is intended
        </button>
      </p>
      {again !== undefined && (
        <Remedy view={view} row={row} setup={setupOfSide(setups[again]!)}>
          {gone ? `Measure ${names[1]} like ${names[0]}` : `Measure ${names[again]} again`}, {minutes(finding.minutes)}
        </Remedy>
      )}
    </div>
  )
}

function Remedy({ view, row, setup, children }: { view: View; row: Row; setup: string; children: ReactNode }) {
  if (byHand(view, row.test))
    return (
      <OpenTimer view={view} setup={setup} test={row.test.id} size="sm">
        {children}
      </OpenTimer>
    )
  return (
    <Link className="btn btn-sm" to={measurePath(view.id, setup)}>
      {children}
    </Link>
  )
}
