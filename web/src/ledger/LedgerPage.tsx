import { ScrollText } from 'lucide-react'
import { useCallback, useMemo, type ReactNode } from 'react'
import { Link, useLocation, useSearchParams } from 'react-router'
import type { Ledger, View } from '../api/client'
import { useLedger, useReference, type Compared } from './queries'
import { useView } from '../job/JobFrame'
import { kindOf } from '../job/stations'
import { Heading } from '../ui/Heading'
import { AtTheThumb } from '../ui/AtTheThumb'
import { LongList } from '../ui/LongList'
import { Empty, Query, SideMark, Simulated } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { groupsOf, type Group } from './axis'
import { Candidates } from './Candidates'
import { Bill } from './Bill'
import { Ceilings } from './Ceilings'
import { OverTime } from './OverTime'
import { Copies } from './Copies'
import { Days } from './Days'
import { DriveTable } from './DriveTable'
import { findingsOf, type Numbered } from './findings'
import { Findings } from './Findings'
import { Foretold } from './Foretold'
import { Head } from './Head'
import { LedgerRow } from './LedgerRow'
import { ReferencePicker, type Reference } from './ReferencePicker'
import { Ticks } from './Scale'
import { SidePicker, sidesOf } from './SidePicker'

/** LedgerPage is the result: every test on Then against the same test on Now, or of a comparison beside every drive. */
export function LedgerPage() {
  const view = useView()
  const { search } = useLocation()
  // Two drives of a comparison are opened line by line by naming them.
  return kindOf(view) === 'comparison' && !/[?&](then|with)=/.test(search) ? <Compared view={view} /> : <Pair view={view} />
}

/** Compared is the result of a comparison of several drives. */
function Compared({ view }: { view: View }) {
  return (
    <>
      <Title view={view} simulated={view.simulated} />
      <DriveTable view={view} />
    </>
  )
}

function Title({ view, simulated, children }: { view: View; simulated: boolean; children?: ReactNode }) {
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-6 gap-y-2">
      <Heading title={`Result, ${view.job.job.number}`}>Result</Heading>
      <div className="flex flex-1 basis-80 flex-wrap gap-x-6 text-lg">{children}</div>
      {simulated && <Simulated />}
      <AtTheThumb>
        <Link className="btn btn-primary" to={`/jobs/${view.id}/report`}>
          <ScrollText size={18} aria-hidden /> Report
        </Link>
      </AtTheThumb>
    </div>
  )
}

function Pair({ view }: { view: View }) {
  // Which sides are compared is in the address.
  const [address, setAddress] = useSearchParams()
  const of: Compared = {
    ...(address.get('then') && { then: address.get('then')! }),
    ...(address.get('with') && { with: address.get('with')! }),
    ...(address.get('intended') && { intended: address.get('intended')! }),
  }
  const ledger = useLedger(view.id, of)
  const pick = (s: Compared) =>
    setAddress(
      () => {
        const next = new URLSearchParams(location.search) // as it is now, also where two are picked in one go
        for (const [key, value] of Object.entries(s)) {
          if (value) next.set(key, value)
          else next.delete(key)
        }
        return next
      },
      { replace: true, preventScrollReset: true },
    )
  return (
    <Query of={ledger} what="the ledger" page>
      {(l) => <Opened view={view} ledger={l} onPick={pick} />}
    </Query>
  )
}

/** Question is the heading of a comparison whose difference is its question. */
function Question({ ledger, onEnd }: { ledger: Ledger; onEnd: () => void }) {
  const title = ledger.findings.find((f) => f.rule === ledger.intended)?.title
  return (
    <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1 border-l-4 border-primary py-1 pl-3">
      <p className="flex-1 text-lg">
        <strong>The question: {ledger.question || 'no such difference was found'}.</strong> {title && `${title}, on purpose.`} It is never part of the upgrade’s report.
      </p>
      <button type="button" className="btn btn-sm" onClick={onEnd}>
        Not intended after all
      </button>
    </div>
  )
}

function Opened({ view, ledger, onPick }: { view: View; ledger: Ledger; onPick: (s: Compared) => void }) {
  const [address, setAddress] = useSearchParams()
  const options = sidesOf(view)
  const then = ledger.then.role === 'then' ? 'Then' : (options.find((o) => o.id === ledger.then.setup)?.label ?? (ledger.then.name || 'Then'))
  const now = ledger.with.role === 'now' ? 'Now' : (options.find((o) => o.id === ledger.with.setup)?.label ?? (ledger.with.name || 'Now'))
  const names = useMemo((): [string, string] => [then, now], [then, now])
  const setups = useMemo(() => [ledger.then.setup, ledger.with.setup], [ledger.then.setup, ledger.with.setup])
  const groups = useMemo(() => groupsOf(ledger.rows), [ledger.rows])
  const list = useMemo(() => findingsOf(ledger), [ledger])
  const byLine = useMemo(() => new Map(ledger.rows.map((r) => [r.test.id, list.filter((f) => f.rows.includes(r))])), [ledger.rows, list])
  const open = address.get('line')
  const number = address.get('ref')
  const reference = useReference(view.id, number, address.get('refsetup'))
  const beside = number === null ? undefined : reference.data
  const pickReference = (of?: string, setup?: string) =>
    setAddress(
      () => {
        const next = new URLSearchParams(location.search)
        for (const [key, value] of Object.entries({ ref: of, refsetup: setup })) {
          if (value) next.set(key, value)
          else next.delete(key)
        }
        return next
      },
      { replace: true, preventScrollReset: true },
    )
  const show = useCallback(
    (test: string | null) =>
      setAddress(
        () => {
          const next = new URLSearchParams(location.search)
          if (test) next.set('line', test)
          else next.delete('line')
          return next
        },
        { replace: true, preventScrollReset: true },
      ),
    [setAddress],
  )
  const toggle = useCallback((test: string) => show(new URLSearchParams(location.search).get('line') === test ? null : test), [show])
  const find = useCallback(
    (test: string) => {
      show(test)
      requestAnimationFrame(() => document.querySelector(`[data-line="${CSS.escape(test)}"]`)?.scrollIntoView({ block: 'start' }))
    },
    [show],
  )
  useShortcuts(
    useMemo(() => {
      const step = (of: string, by: number) => {
        const all = [...document.querySelectorAll<HTMLElement>(of)]
        const at = all.findIndex((e) => e.contains(document.activeElement))
        all[Math.min(all.length - 1, Math.max(0, at + by))]?.focus()
      }
      return [
        { key: 'ArrowDown', label: 'Next line', run: () => step('[data-toggle]', 1) },
        { key: 'ArrowUp', label: 'Previous line', run: () => step('[data-toggle]', -1) },
        { key: 'f', label: 'Next caveat', run: () => step('[data-finding]', 1) },
        { key: 'e', label: 'Next run of the opened line', run: () => step('[data-run]', 1) },
        { key: 's', label: 'Set that run aside, or restore it', run: () => (document.activeElement as HTMLElement | null)?.closest<HTMLElement>('[data-run]')?.click() },
      ]
    }, []),
  )
  return (
    <>
      <Title view={view} simulated={ledger.simulated}>
        <span className="flex items-center gap-2">
          <SideMark side="then" size={16} /> <strong className="text-then">{then}</strong> {ledger.then.drive}
        </span>
        <span className="flex items-center gap-2">
          <SideMark side="now" size={16} /> <strong className="text-now">{now}</strong> {ledger.with.drive}
        </span>
      </Title>
      <SidePicker options={options} then={ledger.then.setup} now={ledger.with.setup} onPick={onPick} />
      {ledger.intended && <Question ledger={ledger} onEnd={() => onPick({ intended: undefined })} />}
      {!ledger.then.setup && <p className="mt-3 border-l-4 border-info pl-3 text-lg">{kindOf(view) === 'check-up' ? 'There is one session so far. Measure again later, or use an earlier job on the intake page, to see what changed.' : 'This job has no Then, so these are current values without a comparison.'}</p>}
      <Head view={view} ledger={ledger} list={list} />
      <Foretold view={view} ledger={ledger} />
      <Findings view={view} ledger={ledger} list={list} names={names} onQuestion={(rule) => onPick({ intended: rule })} onOpen={find} />
      <ReferencePicker key={number} reference={beside} error={reference.error} onPick={pickReference} />
      {ledger.rows.length === 0 && <Empty title="The plan has no tests." />}
      {groups.map((g) => (
        <Lines key={g.id} view={view} group={g} ledger={ledger} names={names} setups={setups} byLine={byLine} reference={beside} open={open} onToggle={toggle} />
      ))}
      {kindOf(view) === 'check-up' && <Days view={view} ledger={ledger} />}
      {kindOf(view) === 'upgrade' && <Candidates view={view} onPick={(setup) => onPick({ with: setup })} />}
      <Ceilings ledger={ledger} names={names} />
      <OverTime view={view} ledger={ledger} />
      <Bill view={view} ledger={ledger} />
      <Copies ledger={ledger} groups={groups} names={names} number={view.job.job.number} />
    </>
  )
}

/** Lines are the lines of a group under their common scale. */
function Lines(props: { view: View; group: Group; ledger: Ledger; names: [string, string]; setups: string[]; byLine: Map<string, Numbered[]>; reference?: Reference; open: string | null; onToggle: (test: string) => void }) {
  const { view, group: g, ledger, names, setups, byLine, reference, open, onToggle } = props
  const values = useMemo(() => new Map(reference?.figures.map((f) => [f.test, { value: f.value, bound: f.bound, of: `Job ${reference.number}` }])), [reference])
  const together = g.together && ledger[g.together]
  const sittings = g.rows.some((r) => [r.then_runs, r.with_runs].some((runs) => new Set(runs.map((x) => x.sitting)).size > 1))
  return (
    <section aria-label={g.title} className="pt-5">
      <div className="grid items-end gap-x-5 md:grid-cols-[17rem_minmax(0,1fr)_20rem]">
        <div>
          <h2 className="text-xl leading-tight font-bold">{g.title}</h2>
          {g.about && <p className="text-sm text-secondary">{g.about}</p>}
        </div>
        <div>
          <p className="text-right text-xs text-secondary">
            {[g.axis.unit, g.axis.log && 'logarithmic scale', sittings && 'filled: runs of later sessions'].filter(Boolean).join(', ')}
          </p>
          <Ticks axis={g.axis} />
        </div>
        <p className="md:text-right">
          {together?.words && (
            <>
              {g.together === 'waiting' ? 'all waiting together' : 'together'} <strong className="text-lg">{together.words}</strong>
            </>
          )}
        </p>
      </div>
      <LongList items={g.rows} keyOf={(r) => r.test.id} height={72} reveal={g.rows.findIndex((r) => r.test.id === open)}>
        {(r) => <LedgerRow view={view} row={r} reference={values.get(r.test.id)} axis={g.axis} names={names} setups={setups} findings={byLine.get(r.test.id) ?? none} open={open === r.test.id} onToggle={onToggle} />}
      </LongList>
    </section>
  )
}

const none: Numbered[] = []
