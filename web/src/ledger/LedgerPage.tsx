import { ArrowLeft, ScrollText } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Ledger, Row, View } from '../api/client'
import { useJob, useLedger } from '../api/queries'
import { Empty, Query, SideMark, Simulated } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { LedgerRow } from './LedgerRow'
import { SidePicker, sidesOf } from './SidePicker'

/** LedgerPage sets every test on Then against the same test on Now. */
export function LedgerPage() {
  const id = useParams().job!
  const job = useJob(id)
  const [sides, setSides] = useState<{ then?: string; with?: string }>({})
  const ledger = useLedger(id, sides.then, sides.with)
  const go = useNavigate()
  useShortcuts(
    useMemo(
      () => [
        { key: 'r', label: 'Report', run: () => void go(`/jobs/${id}/report`) },
        { key: 'Escape', label: 'Back to the job', run: () => void go(`/jobs/${id}`) },
      ],
      [go, id],
    ),
  )
  return (
    <div className="py-5">
      <Query of={job} what="the job">
        {(view) => (
          <>
            <Link to={`/jobs/${id}`} className="inline-flex items-center gap-1 text-secondary hover:text-base-content">
              <ArrowLeft size={16} aria-hidden /> {view.job.job.number} {view.job.job.customer?.name}
            </Link>
            <Query of={ledger} what="the ledger">
              {(l) => <Opened view={view} ledger={l} onSides={(s) => setSides({ ...sides, ...s })} />}
            </Query>
          </>
        )}
      </Query>
    </div>
  )
}

const groups: { title: string; kinds: Row['test']['kind'][]; of?: 'waiting' | 'drive'; about: string }[] = [
  { title: 'Waiting', kinds: ['timed', 'file'], of: 'waiting', about: 'what the customer feels' },
  { title: 'The drive', kinds: ['drive'], of: 'drive', about: 'what it can do; never the same as what is felt' },
  { title: 'Controls and notes', kinds: ['control', 'note'], about: 'in no group' },
]

function Opened({ view, ledger, onSides }: { view: View; ledger: Ledger; onSides: (s: { then?: string; with?: string }) => void }) {
  const options = sidesOf(view)
  const then = ledger.then.role === 'then' ? 'Then' : (options.find((o) => o.id === ledger.then.setup)?.label ?? 'Then')
  const now = ledger.with.role === 'now' ? 'Now' : (options.find((o) => o.id === ledger.with.setup)?.label ?? 'Now')
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto text-3xl font-bold tracking-tight">Ledger</h1>
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
      <SidePicker options={options} then={ledger.then.setup} now={ledger.with.setup} onPick={onSides} />
      {ledger.savings.words && <p className="pt-4 text-2xl font-bold">{ledger.savings.words}</p>}
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
              <LedgerRow key={r.test.id} view={view} row={r} names={[then, now]} setups={[ledger.then.setup, ledger.with.setup]} findings={ledger.findings.filter((f) => f.lines.includes(r.test.id))} />
            ))}
          </section>
        )
      })}
    </>
  )
}
