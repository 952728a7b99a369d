import { ChevronDown, Flag } from 'lucide-react'
import { memo, useCallback } from 'react'
import { Link } from 'react-router'
import type { Row, View } from '../api/client'
import { racePath } from '../job/paths'
import { figure } from '../ui/format'
import type { Axis } from './axis'
import type { Numbered } from './findings'
import { OpenLine } from './OpenLine'
import { Scale } from './Scale'
import { Sign } from './Sign'

type Props = { view: View; row: Row; reference?: { value: number; bound?: string; of: string }; axis: Axis; names: [string, string]; setups: string[]; findings: Numbered[]; open: boolean; onToggle: (test: string) => void }

/** LedgerRow is one line: both sides on its group's scale, what it comes to in words, and the signs of the findings that touch it. It opens in place. */
export const LedgerRow = memo(function LedgerRow({ view, row, reference, axis, names, setups, findings, open, onToggle }: Props) {
  const { words, test } = row
  const toggle = useCallback(() => onToggle(test.id), [onToggle, test.id])
  return (
    <article aria-label={test.name} data-line={test.id} className="border-b border-base-300 py-1.5 [contain-intrinsic-size:auto_58px] [content-visibility:auto]">
      <div className="grid items-center gap-x-5 gap-y-1 md:grid-cols-[17rem_minmax(0,1fr)_20rem]">
        <div className="min-w-0">
          <h3 className="flex items-start gap-1 leading-tight font-bold">
            <button type="button" data-toggle className="flex min-w-0 items-start gap-1 text-left" aria-expanded={open} onClick={toggle}>
              <ChevronDown size={18} aria-hidden className={`mt-0.5 shrink-0 text-secondary ${open ? '' : '-rotate-90'}`} />
              <span className="min-w-0 break-words">{test.name}</span>
            </button>
            {findings.length > 0 && (
              <span className="ml-auto flex shrink-0 gap-1">
                {findings.map((f) => (
                  <Sign key={f.n} n={f.n} effect={f.on.get(test.id) ?? f.effect} to />
                ))}
              </span>
            )}
          </h3>
          <p className="flex flex-wrap items-baseline gap-x-3 pl-5.5 leading-tight font-semibold">
            {words.then && <span className="text-then">{names[0]} {words.then}</span>}
            {words.with && <span className="text-now">{names[1]} {words.with}</span>}
          </p>
          {reference && (
            <p className="pl-5.5 text-sm leading-tight text-secondary">
              {reference.of}: {reference.bound ? `${reference.bound} ` : ''}
              {figure(reference.value, test.unit)}
            </p>
          )}
        </div>
        <Scale row={row} axis={axis} />
        <Verdict view={view} row={row} names={names} setups={setups} />
      </div>
      {open && <OpenLine view={view} row={row} names={names} setups={setups} />}
    </article>
  )
})

function Verdict({ view, row, names, setups }: { view: View; row: Row; names: [string, string]; setups: string[] }) {
  const { line, words } = row
  const missing = line.verdict === 'not-measured'
  const big = missing ? (line.then ? `${names[1]} is missing` : line.with ? `${names[0]} is missing` : 'Not measured yet') : words.factor
  const doubt = words.doubt !== '' || (line.verdict !== 'faster' && line.verdict !== 'slower')
  const races = line.then && line.with && row.test.unit === 's' && row.test.kind !== 'control'
  return (
    <div className="flex items-start gap-2 md:justify-end md:text-right">
      <div>
        <p className="leading-tight">
          <strong className={doubt ? 'text-lg font-semibold text-secondary' : 'text-xl'}>{big}</strong>
        </p>
        {words.waiting && (
          <p className="text-sm leading-tight font-semibold">
            {words.waiting}, {words.saves}
          </p>
        )}
        {words.range && <p className="text-sm leading-tight text-secondary">{words.range}</p>}
        {words.doubt && <p className="text-sm leading-tight font-semibold text-warning">{words.doubt}</p>}
        {!doubt && row.test.kind === 'timed' && line.factor !== null && !line.felt && <p className="text-sm leading-tight text-secondary">too small to be felt</p>}
      </div>
      {races && (
        <Link className="btn btn-ghost btn-square btn-sm shrink-0" to={`${racePath(view.id, row.test.id)}?setups=${setups.join(',')}`} aria-label={`Watch the race: ${row.test.name}`} title="Watch the race">
          <Flag size={16} aria-hidden />
        </Link>
      )}
    </div>
  )
}
