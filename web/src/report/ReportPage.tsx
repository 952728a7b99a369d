import { Printer, Stamp } from 'lucide-react'
import { useMemo, useState } from 'react'
import { useIssueReport, useReport } from '../api/queries'
import { Gate } from '../job/Gate'
import { useView } from '../job/JobFrame'
import { NextPanel } from '../job/NextPanel'
import { StepList } from '../swap/StepList'
import { CommandButton } from '../ui/CommandButton'
import { time } from '../ui/format'
import { Heading } from '../ui/Heading'
import { Query, Refusal } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { Answers } from './Answers'
import { Paper } from './Paper'

/** ReportPage is the customer's report, a draft until it is issued, then frozen; and the way out of the shop. */
export function ReportPage() {
  const view = useView()
  const report = useReport(view.id)
  return (
    <div className="flex flex-col gap-4 print:block">
      <div className="no-print contents">
        <Heading title={`Report, ${view.job.job.number}`}>Report</Heading>
        <NextPanel view={view} page="report" />
      </div>
      <Query of={report} what="the report">
        {(r) => <Sheet job={view.id} of={r} />}
      </Query>
      <div className="no-print flex flex-col gap-5">
        <StepList view={view} when="back" />
        <Gate view={view} name="handed-back">
          <Answers key={view.revision} view={view} />
        </Gate>
      </div>
    </div>
  )
}

type Reports = NonNullable<ReturnType<typeof useReport>['data']>

function Sheet({ job, of: { draft: current, issued } }: { job: string; of: Reports }) {
  const issue = useIssueReport(job)
  const [draft, setDraft] = useState(false)
  useShortcuts(useMemo(() => [{ key: 'p', label: 'Print', run: () => window.print() }], []))
  const shown = issued && !draft ? issued : current
  return (
    <>
      <div className="no-print flex flex-wrap items-center gap-2">
        <p className="mr-auto font-semibold">{shown.issued ? `Issued ${time(shown.issued)}; it stays as it was.` : 'A draft: it changes with the figures until it is issued.'}</p>
        {issued && (
          <button type="button" className="btn" onClick={() => setDraft(!draft)}>
            {draft ? 'Show the issued report' : 'Show current draft'}
          </button>
        )}
        {(!issued || draft) && (
          <CommandButton of={issue} onClick={() => issue.run(undefined, () => setDraft(false))}>
            <Stamp size={16} aria-hidden /> Issue it
          </CommandButton>
        )}
        <button type="button" className="btn btn-primary" onClick={() => window.print()}>
          <Printer size={16} aria-hidden /> Print
        </button>
      </div>
      {issue.error && <Refusal error={issue.error} />}
      <Paper doc={shown} />
    </>
  )
}
