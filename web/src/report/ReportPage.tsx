import { ArrowLeft, Printer, Stamp } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { useIssueReport, useReport } from '../api/queries'
import { time } from '../ui/format'
import { Query, Refusal } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { Paper } from './Paper'

/** ReportPage is the customer's report: a draft until it is issued, then frozen. */
export function ReportPage() {
  const id = useParams().job!
  const report = useReport(id)
  const issue = useIssueReport(id)
  const go = useNavigate()
  const [draft, setDraft] = useState(false)
  useShortcuts(
    useMemo(
      () => [
        { key: 'p', label: 'Print', run: () => window.print() },
        { key: 'Escape', label: 'Back to the job', run: () => void go(`/jobs/${id}`) },
      ],
      [go, id],
    ),
  )
  return (
    <div className="py-5 print:p-0">
      <Query of={report} what="the report">
        {({ draft: current, issued }) => {
          const shown = issued && !draft ? issued : current
          return (
            <>
              <div className="no-print mb-4 flex flex-wrap items-center gap-2">
                <Link to={`/jobs/${id}`} className="inline-flex items-center gap-1 text-secondary hover:text-base-content">
                  <ArrowLeft size={16} aria-hidden /> {current.number} {current.customer}
                </Link>
                <p className="mr-auto ml-3 font-semibold">
                  {shown.issued ? `Issued ${time(shown.issued)}; it stays as it was.` : 'A draft: it changes with the figures until it is issued.'}
                </p>
                {issued && (
                  <button type="button" className="btn btn-sm" onClick={() => setDraft(!draft)}>
                    {draft ? 'Show the issued report' : 'Show current draft'}
                  </button>
                )}
                {(!issued || draft) && (
                  <button
                    type="button"
                    className="btn btn-sm"
                    disabled={issue.isPending}
                    onClick={() => issue.run(undefined, () => setDraft(false))}
                  >
                    <Stamp size={16} aria-hidden /> Issue it
                  </button>
                )}
                <button type="button" className="btn btn-primary btn-sm" onClick={() => window.print()}>
                  <Printer size={16} aria-hidden /> Print
                </button>
              </div>
              {issue.error && <Refusal error={issue.error} />}
              <Paper doc={shown} />
            </>
          )
        }}
      </Query>
    </div>
  )
}
