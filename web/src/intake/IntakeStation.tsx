import { Pencil } from 'lucide-react'
import { useState } from 'react'
import { useLocation } from 'react-router'
import type { View } from '../api/client'
import { useEarlier, useTakeEarlier } from './queries'
import { ToTheBin } from '../job/Bin'
import { useView } from '../job/JobFrame'
import { NextPanel } from '../job/NextPanel'
import { kindOf } from '../job/stations'
import { setupAs } from '../job/view'
import { QuotePanel } from '../quote/QuotePanel'
import { PlanEditor } from '../plan/PlanEditor'
import { CommandButton } from '../ui/CommandButton'
import { bytes, day } from '../ui/format'
import { Heading } from '../ui/Heading'
import { Refusal } from '../ui/parts'
import { Drives } from './Drives'
import { EditDocket } from './EditDocket'
import { Forecast } from './Forecast'
import { reasonLabels } from './Reasons'

/** IntakeStation is what was said when the computer came in, its drives, and the plan. */
export function IntakeStation() {
  const view = useView()
  const { hash } = useLocation()
  // The next step that asks for a drive leads here.
  const [editing, setEditing] = useState(hash === '#drives')
  const { job } = view
  const computer = job.computers[0]
  const facts = [
    [computer?.maker, computer?.model].filter(Boolean).join(' '),
    computer?.processor,
    computer?.memory_bytes ? bytes(computer.memory_bytes) : '',
    computer?.graphics,
    computer?.system,
  ].filter(Boolean)
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <Heading title={`Intake, ${job.job.number}`}>Intake</Heading>
        {job.job.opened && <span className="text-secondary">{day(job.job.opened)}</span>}
        <span className="ml-auto flex flex-wrap gap-2">
          <ToTheBin view={view} />
          <button type="button" className="btn btn-sm" aria-expanded={editing} onClick={() => setEditing(!editing)}>
            <Pencil size={16} aria-hidden /> Change
          </button>
        </span>
      </div>
      <NextPanel view={view} page="intake" />
      {view.state === 'quoted' && <QuotePanel view={view} />}
      {editing ? (
        <div className="sheet">
          <EditDocket view={view} onDone={() => setEditing(false)} />
        </div>
      ) : (
        <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1">
          <Fact label="Customer">{[job.job.customer?.name, job.job.customer?.contact].filter(Boolean).join(', ') || 'not entered'}</Fact>
          <Fact label="Computer">{facts.join(' · ') || 'not entered'}</Fact>
          <Fact label="Reason">
            {[...(job.job.reasons ?? []).map((r) => r.words || reasonLabels[r.what]), !job.job.reasons?.some((r) => r.words?.toLowerCase() === job.job.reason.toLowerCase()) && job.job.reason && `“${job.job.reason}”`]
              .filter(Boolean)
              .join(' · ') || 'not entered'}
          </Fact>
        </dl>
      )}
      <Earlier view={view} />
      <Drives view={view} />
      {kindOf(view) === 'upgrade' && view.state !== 'quoted' && !job.job.gates?.length && <Forecast view={view} />}
      <PlanEditor view={view} />
    </div>
  )
}

function Fact({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <>
      <dt className="text-secondary">{label}</dt>
      <dd className="min-w-0 break-words">{children}</dd>
    </>
  )
}

/** Earlier offers what was measured at the end of an earlier job of the same computer as what this one begins with. */
function Earlier({ view }: { view: View }) {
  const then = setupAs(view, 'then')
  const measured = view.job.runs.some((r) => view.job.sittings.find((s) => s.id === r.sitting)?.setup === then?.id)
  const earlier = useEarlier(view.id, !measured)
  const take = useTakeEarlier(view.id)
  if (measured || !earlier.data?.length) return null
  return (
    <section aria-labelledby="earlier" className="border-l-4 border-info pl-4">
      <h2 id="earlier" className="text-lg font-bold">
        This computer was here before
      </h2>
      <p>{kindOf(view) === 'check-up' ? 'What was measured when it left can be compared with today.' : 'The figures from when it left can be used as Then, once a control shows that it has not changed.'}</p>
      <ul className="mt-1">
        {earlier.data.map((e) => (
          <li key={e.id} className="flex flex-wrap items-center gap-x-4 gap-y-1 py-1">
            <strong>{e.number}</strong> {day(e.opened)}: {e.drive}, {e.runs} runs
            <CommandButton of={take} size="sm" onClick={() => take.run(e.id)}>
              {kindOf(view) === 'check-up' ? 'Compare with it' : 'Use as Then'}
            </CommandButton>
          </li>
        ))}
      </ul>
      {take.error && <Refusal error={take.error} />}
    </section>
  )
}
