import { Copy } from 'lucide-react'
import { lazy, Suspense, useState } from 'react'
import { Link } from 'react-router'
import type { Row, Run, View } from '../api/client'
import { useCloser } from '../closer/queries'
import { closerPath } from '../job/paths'
import { conditionsInWords, unknownConditions } from '../job/view'
import { figure, time } from '../ui/format'
import { Query, SideMark } from '../ui/parts'
import { lineAsText } from './copy'
import { Phases } from './Phases'
import { RunTable } from './RunTable'
import { partsOf } from './sides'

const Drawn = lazy(async () => ({ default: (await import('./Drawn')).Drawn }))

/** looksDeeper reports whether a run contains more than its value. */
const looksDeeper = (r: Run) => Boolean(r.latency || r.series || r.curve || r.files)

/** OpenLine is the content of an opened line: its basis in words, its runs and their conditions, and what the runs contain beyond their values. */
export function OpenLine({ view, row, names, setups }: { view: View; row: Row; names: [string, string]; setups: string[] }) {
  const { words, line, test } = row
  const said = [
    words.further,
    words.keeps_up,
    words.share,
    line.then && row.then_uncertainty && `${names[0]}: ${row.then_uncertainty}`,
    line.with && row.with_uncertainty && `${names[1]}: ${row.with_uncertainty}`,
    settled(row, names[0], line.then),
    settled(row, names[1], line.with),
  ].filter((s): s is string => Boolean(s))
  const deeper = [...row.then_runs, ...row.with_runs].some(looksDeeper)
  return (
    <div className="my-2 ml-2 flex flex-col gap-4 border-l-4 border-base-300 pl-4">
      {said.length > 0 && (
        <ul className="max-w-prose">
          {said.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
      )}
      <Phases row={row} names={names} />
      <div className="grid gap-x-8 gap-y-4 md:grid-cols-2">
        <RunTable view={view} test={test} runs={row.then_runs} side="then" title={names[0]} />
        <RunTable view={view} test={test} runs={row.with_runs} side="now" title={names[1]} />
        <Conditions view={view} row={row} side="then" setup={setups[0]!} name={names[0]} />
        <Conditions view={view} row={row} side="now" setup={setups[1]!} name={names[1]} />
      </div>
      {deeper && <Deep view={view} test={test.id} setups={setups.map((s) => partsOf(view, s).setup)} />}
      <p className="flex flex-wrap gap-2">
        <CopyButton text={() => lineAsText(row, names)}>Copy line</CopyButton>
        {deeper && (
          <Link className="btn btn-sm" to={closerPath(view.id, test.id)}>
            Show details
          </Link>
        )}
      </p>
    </div>
  )
}

/** settled says the first and the settled value of a side whose drive learns. */
function settled(row: Row, name: string, side: Row['line']['then']) {
  if (typeof side?.first !== 'number' || typeof side.settled !== 'number') return undefined
  return `${name}: ${figure(side.first, row.test.unit)} the first time, ${figure(side.settled, row.test.unit)} once settled.`
}

/** Conditions says what was so in each sitting of a side. */
function Conditions({ view, row, side, setup, name }: { view: View; row: Row; side: 'then' | 'now'; setup: string; name: string }) {
  const only = partsOf(view, setup).sitting
  const runs = side === 'then' ? row.then_runs : row.with_runs
  const list = view.job.sittings.filter((s) => runs.some((r) => r.sitting === s.id) && (!only || s.id === only))
  if (list.length === 0) return <span />
  return (
    <div className="text-sm">
      <p className="font-bold">
        <SideMark side={side} /> {name}: conditions
      </p>
      <ul>
        {list.map((s) => {
          const unknown = unknownConditions(s.conditions)
          return (
            <li key={s.id}>
              {s.started && <span className="text-secondary">{time(s.started)}: </span>}
              {conditionsInWords(s.conditions).join(', ') || 'nothing noted'}
              {unknown.length > 0 && <span className="text-warning"> · not known: {unknown.join(', ')}</span>}
            </li>
          )
        })}
      </ul>
    </div>
  )
}

function Deep({ view, test, setups }: { view: View; test: string; setups: string[] }) {
  const closer = useCloser(view.id, test)
  return (
    <Query of={closer} what="the runs">
      {(c) => (
        <Suspense fallback={null}>
          <Drawn view={view} closer={c} setups={setups} />
        </Suspense>
      )}
    </Query>
  )
}

/** CopyButton puts a text on the clipboard and says that it did. */
export function CopyButton({ text, children }: { text: () => string; children: string }) {
  const [done, setDone] = useState<'copied' | 'failed'>()
  const copy = () =>
    // A plain address in the shop's network has no clipboard.
    (navigator.clipboard?.writeText(text()) ?? Promise.reject(new Error('no clipboard'))).then(
      () => setDone('copied'),
      () => setDone('failed'),
    )
  return (
    <button type="button" className="btn btn-sm" onClick={() => void copy()}>
      <Copy size={16} aria-hidden /> <span aria-live="polite">{done === 'copied' ? 'Copied' : done === 'failed' ? 'This browser does not allow copying here' : children}</span>
    </button>
  )
}
