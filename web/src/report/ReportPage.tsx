import { Download, Printer, Stamp } from 'lucide-react'
import { useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { View } from '../api/client'
import { useFate } from '../job/queries'
import { useIssueReport, useReport, useRevisions, useWithdraw, type Lang } from './queries'
import { fateOf, fateOptions } from '../job/fate'
import { Gate } from '../job/Gate'
import { useView } from '../job/JobFrame'
import { NextBar, NextPanel } from '../job/NextPanel'
import { kindOf } from '../job/stations'
import { setupAs } from '../job/view'
import { Later } from '../later/Later'
import { StepList } from '../swap/StepList'
import { AtTheThumb } from '../ui/AtTheThumb'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { time } from '../ui/format'
import { Heading } from '../ui/Heading'
import { Query, Refusal } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { Answers } from './Answers'
import { ChoicesForm } from './Choices'
import { Paper } from './Paper'
import { Share } from './Share'
import { ShopName } from './ShopName'

/** ReportPage is the customer's report, a draft until it is issued, then frozen; and the way out of the shop. */
export function ReportPage() {
  const view = useView()
  const [params, setParams] = useSearchParams()
  const lang: Lang = params.get('lang') === 'de' ? 'de' : 'en'
  const report = useReport(view.id, lang)
  return (
    <div className="flex flex-col gap-4 print:block">
      <div className="no-print contents">
        <Heading title={`Report, ${view.job.job.number}`}>Report</Heading>
        {view.page !== 'report' && <NextPanel view={view} page="report" />}
        {view.page === 'report' && view.next.do === 'hand-back' && <NextBar view={view} />}
        {!report.data?.issued && <ShopName />}
        {!report.data?.issued && <Outcome view={view} />}
      </div>
      <Query of={report} what="the report">
        {(r) => <Sheet view={view} of={r} lang={lang} onLang={(l) => setParams(l === 'en' ? {} : { lang: l }, { replace: true })} />}
      </Query>
      <div className="no-print flex flex-col gap-5">
        {report.data?.issued && <Share job={view.id} />}
        <Later view={view} />
        <StepList view={view} when="back" />
        <Gate view={view} name="handed-back">{report.data?.issued && <Outcome view={view} />}</Gate>
      </div>
    </div>
  )
}

/** Outcome is what the report has to say of the visit: what became of its reasons and of the old drive. */
function Outcome({ view }: { view: View }) {
  const then = setupAs(view, 'then')
  const can = fateOptions(view)
  const set = useFate(view.id)
  return (
    <div className="flex flex-col gap-3">
      <Answers view={view} />
      {kindOf(view) === 'upgrade' && then && can.length > 1 && (
        <Choice label="What becomes of the old drive" value={fateOf(view)} options={can} onChange={(fate) => set.run({ drive: then.drive, fate })} />
      )}
      {set.error && <Refusal error={set.error} />}
    </div>
  )
}

type Reports = NonNullable<ReturnType<typeof useReport>['data']>

const languages = [
  { value: 'en', label: 'English' },
  { value: 'de', label: 'German' },
]

const forms = { pdf: 'PDF', html: 'Web page', txt: 'Text', png: 'Picture', csv: 'Table' }

/** Files are the forms in which the report is sent or kept. */
function Files({ job, draft, lang }: { job: string; draft: boolean; lang: Lang }) {
  const of = draft ? `&draft=1&lang=${lang}` : ''
  return (
    <details className="dropdown dropdown-end">
      <summary className="btn">
        <Download size={16} aria-hidden /> Save as
      </summary>
      <div className="dropdown-content sheet z-10 flex w-52 flex-col gap-1 bg-base-100 p-2 shadow">
        {Object.entries(forms).map(([form, name]) => (
          <a key={form} className="btn btn-ghost btn-sm justify-start" href={`/api/jobs/${job}/report/file?form=${form}${of}`} download>
            {name}
          </a>
        ))}
        <a className="btn btn-ghost btn-sm justify-start" href={`/api/jobs/${job}/report/file?form=pdf&length=one${of}`} download>
          PDF, one page
        </a>
        <a className="btn btn-ghost btn-sm justify-start" href={`/api/jobs/${job}/report/file?form=pdf&length=full${of}`} download>
          PDF with all runs
        </a>
      </div>
    </details>
  )
}

/** Revisions lists all reports that were issued; each can be withdrawn, and stays in the list. */
function Revisions({ job }: { job: string }) {
  const revisions = useRevisions(job)
  const list = revisions.data ?? []
  const withdraw = useWithdraw(job)
  if (list.length === 0) return null
  return (
    <details className="border-b border-base-300 py-2">
      <summary className="cursor-pointer font-semibold">{list.length === 1 ? 'One report was issued' : `${list.length} reports were issued`}</summary>
      <ul>
        {list.toReversed().map((r) => (
          <li key={r.revision} className="border-b border-base-300 py-1.5 last:border-0">
            <a className="link font-semibold" href={`/api/jobs/${job}/report/file?form=pdf&revision=${r.revision}`} download>
              Revision {r.revision}
            </a>{' '}
            <span className="text-secondary">{time(r.issued)}</span> {r.headline}{' '}
            {r.withdrawn ? (
              <strong>Withdrawn on {time(r.withdrawn)}.</strong>
            ) : (
              <CommandButton of={withdraw} size="sm" aria-label={`Withdraw revision ${r.revision}`} onClick={() => withdraw.run(r.revision)}>
                Withdraw
              </CommandButton>
            )}
            {r.changes.length > 0 && <span className="block text-sm" lang={r.lang}>{r.changes.join(' ')}</span>}
          </li>
        ))}
      </ul>
      {withdraw.error && <Refusal error={withdraw.error} />}
    </details>
  )
}

/** Issue freezes the report; where the job is at the report, that is the next act. */
function Issue({ of, first, next, onClick }: { of: { isPending: boolean }; first: boolean; next: boolean; onClick: () => void }) {
  const button = (
    <CommandButton of={of} tone={first ? 'primary' : 'plain'} onClick={onClick}>
      <Stamp size={16} aria-hidden /> Issue
    </CommandButton>
  )
  return next ? <AtTheThumb>{button}</AtTheThumb> : button
}

function Sheet({ view, of: { draft: current, issued }, lang, onLang }: { view: View; of: Reports; lang: Lang; onLang: (lang: Lang) => void }) {
  const job = view.id
  const issue = useIssueReport(job)
  const [draft, setDraft] = useState(false)
  useShortcuts(useMemo(() => [{ key: 'p', label: 'Print', run: () => window.print() }], []))
  const shown = issued && !draft ? issued : current
  return (
    <>
      <div className="no-print flex flex-wrap items-center gap-2">
        <p className="mr-auto font-semibold">{shown.issued ? `Issued ${time(shown.issued)}. An issued report doesn’t change.` : 'A draft: it changes with the figures until it is issued.'}</p>
        {issued && (
          <button type="button" className="btn" onClick={() => setDraft(!draft)}>
            {draft ? 'Show the issued report' : 'Show current draft'}
          </button>
        )}
        {(!issued || draft) && (
          <Issue of={issue} first={!issued} next={!issued && view.page === 'report'} onClick={() => issue.run(lang, () => setDraft(false))} />
        )}
        {(!issued || draft) && (
          <label className="flex items-center gap-2">
            <span className="sr-only">Language of the report</span>
            <select className="select w-32" value={lang} onChange={(e) => onLang(e.target.value as Lang)}>
              {languages.map((l) => (
                <option key={l.value} value={l.value}>
                  {l.label}
                </option>
              ))}
            </select>
          </label>
        )}
        <Files job={job} draft={!issued || draft} lang={lang} />
        <button type="button" className="btn" onClick={() => window.print()}>
          <Printer size={16} aria-hidden /> Print
        </button>
      </div>
      {issue.error && <Refusal error={issue.error} />}
      <div className="no-print">
        {!shown.issued && <ChoicesForm view={view} />}
        <Revisions job={job} />
      </div>
      <Paper doc={shown} />
    </>
  )
}
