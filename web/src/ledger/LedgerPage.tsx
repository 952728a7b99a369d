import { ScrollText } from 'lucide-react'
import { Link, useSearchParams } from 'react-router'
import type { Ledger, Row, View } from '../api/client'
import { useLedger, type Compared } from '../api/queries'
import { useView } from '../job/JobFrame'
import { Heading } from '../ui/Heading'
import { Empty, Query, SideMark, Simulated } from '../ui/parts'
import { LedgerRow } from './LedgerRow'
import { SidePicker, sidesOf } from './SidePicker'

/** LedgerPage sets every test on Then against the same test on Now. */
export function LedgerPage() {
  const view = useView()
  // Which sides are compared stands in the address.
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
    <Query of={ledger} what="the ledger">
      {(l) => <Opened view={view} ledger={l} onPick={pick} />}
    </Query>
  )
}

/** Headline says what the customer is spared, and of the line that was named before anything was measured what became of it. */
function Headline({ ledger }: { ledger: Ledger }) {
  const row = ledger.rows.find((r) => r.test.id === ledger.headline)
  const same = ledger.rows.filter((r) => ledger.savings?.same_occasion.includes(r.test.id))
  if (!row && !ledger.savings) return null
  return (
    <div className="pt-4">
      {row && (
        <p className="text-2xl font-bold">
          {row.test.name}: {row.words.then} then, {row.words.with} now{row.words.doubt ? '' : `, ${row.words.factor}`}.
        </p>
      )}
      {ledger.savings && <p className="text-lg font-semibold">{ledger.savings.words}</p>}
      {same.length > 0 && <p className="text-sm text-secondary">Counted once with another test of the same occasion: {same.map((r) => r.test.name).join(', ')}.</p>}
    </div>
  )
}

/** Question is the heading of a comparison whose difference is its question. */
function Question({ ledger, onEnd }: { ledger: Ledger; onEnd: () => void }) {
  const title = ledger.findings.find((f) => f.rule === ledger.intended)?.title
  return (
    <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1 border-l-4 border-primary py-1 pl-3">
      <p className="flex-1 text-lg">
        <strong>The question: {ledger.question || 'no such difference was found'}.</strong> {title && `${title}, on purpose.`} It never goes into the report of the upgrade.
      </p>
      <button type="button" className="btn btn-sm" onClick={onEnd}>
        Not intended after all
      </button>
    </div>
  )
}

const groups: { title: string; kinds: Row['test']['kind'][]; of?: 'waiting' | 'drive'; about: string }[] = [
  { title: 'Waiting', kinds: ['timed', 'file'], of: 'waiting', about: 'what the customer feels' },
  { title: 'The drive', kinds: ['drive'], of: 'drive', about: 'what it can do; never the same as what is felt' },
  { title: 'Controls and notes', kinds: ['control', 'note'], about: 'in no group' },
]

function Opened({ view, ledger, onPick }: { view: View; ledger: Ledger; onPick: (s: Compared) => void }) {
  const options = sidesOf(view)
  const then = ledger.then.role === 'then' ? 'Then' : (options.find((o) => o.id === ledger.then.setup)?.label ?? 'Then')
  const now = ledger.with.role === 'now' ? 'Now' : (options.find((o) => o.id === ledger.with.setup)?.label ?? 'Now')
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <div className="mr-auto">
          <Heading title={`Ledger, ${view.job.job.number}`}>Ledger</Heading>
        </div>
        {ledger.simulated && <Simulated />}
        <Link className="btn btn-primary" to={`/jobs/${view.id}/report`}>
          <ScrollText size={18} aria-hidden /> Report
        </Link>
      </div>
      <p className="flex flex-wrap gap-x-8 gap-y-1 border-b-2 border-base-content pb-3 text-lg">
        <span className="flex items-center gap-2">
          <SideMark side="then" size={16} /> <strong className="text-then">{then}</strong> {ledger.then.drive}
        </span>
        <span className="flex items-center gap-2">
          <SideMark side="now" size={16} /> <strong className="text-now">{now}</strong> {ledger.with.drive}
        </span>
      </p>
      <SidePicker options={options} then={ledger.then.setup} now={ledger.with.setup} onPick={onPick} />
      {ledger.intended && <Question ledger={ledger} onEnd={() => onPick({ intended: undefined })} />}
      <Headline ledger={ledger} />
      {ledger.rows.length === 0 && <Empty title="The plan has no tests." />}
      {groups.map((g) => {
        const rows = ledger.rows.filter((r) => g.kinds.includes(r.test.kind))
        if (rows.length === 0) return null
        const group = g.of && ledger[g.of]
        return (
          <section key={g.title} aria-label={g.title} className="pt-6">
            <div className="flex flex-wrap items-baseline gap-x-3">
              <h2 className="text-xl font-bold">{g.title}</h2>
              <span className="mr-auto text-secondary">{g.about}</span>
              {group?.words && (
                <span>
                  together <strong className="text-xl">{group.words}</strong>
                  <span className="text-secondary"> over {group.lines === 1 ? 'one line' : `${group.lines} lines`}</span>
                </span>
              )}
            </div>
            {rows.map((r) => (
              <LedgerRow key={r.test.id} view={view} row={r} names={[then, now]} setups={[ledger.then.setup, ledger.with.setup]} findings={ledger.findings.filter((f) => f.lines.includes(r.test.id) && f.rule !== ledger.intended)} onQuestion={(rule) => onPick({ intended: rule })} />
            ))}
          </section>
        )
      })}
    </>
  )
}
