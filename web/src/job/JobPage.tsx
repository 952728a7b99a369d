import { Download, NotebookText, ScrollText } from 'lucide-react'
import { useMemo } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { View } from '../api/client'
import { useJob } from '../api/queries'
import { Query } from '../ui/parts'
import { useOpenTimer } from '../timer/OpenTimer'
import { useShortcuts } from '../ui/shortcuts'
import { Docket } from './Docket'
import { Gate } from './Gate'
import { NextPanel } from './NextPanel'
import { nextPath } from './paths'
import { PlanTable } from './PlanTable'
import { Sittings } from './Sittings'
import { Steps } from './Steps'
import { Trials } from './Trials'
import { Work } from './Work'

/** JobPage is one job: its docket, what to do next, the plan with what is done of it, and the conditions. */
export function JobPage() {
  const id = useParams().job!
  const job = useJob(id)
  return (
    <div className="py-5">
      <Query of={job} what="the job">
        {(view) => <Opened view={view} />}
      </Query>
    </div>
  )
}

function Opened({ view }: { view: View }) {
  const go = useNavigate()
  const next = nextPath(view)
  const timer = useOpenTimer(view)
  const { do: what, setup, test } = view.next
  const openTimer = timer.open
  useShortcuts(
    useMemo(
      () => [
        ...(next ? [{ key: 'Enter', label: 'Do what is next', run: () => (what === 'time' ? openTimer(setup, test) : void go(next)) }] : []),
        { key: 'l', label: 'Ledger', run: () => void go(`/jobs/${view.id}/ledger`) },
        { key: 'r', label: 'Report', run: () => void go(`/jobs/${view.id}/report`) },
      ],
      // eslint-disable-next-line react-hooks/exhaustive-deps -- opening the timer is the same whenever it is asked for
      [go, next, what, setup, test, view.id],
    ),
  )
  return (
    <div className="flex flex-col gap-6">
      <Docket view={view} />
      <NextPanel view={view} />
      <PlanTable view={view} />
      <Gate view={view} />
      <div className="grid gap-8 lg:grid-cols-2">
        <Steps view={view} />
        <div className="flex flex-col gap-6">
          <Sittings view={view} />
          <Work view={view} />
          <Trials view={view} />
        </div>
      </div>
      <nav aria-label="Of this job" className="flex flex-wrap gap-2">
        <Link className="btn" to={`/jobs/${view.id}/ledger`}>
          <NotebookText size={18} aria-hidden /> Ledger
        </Link>
        <Link className="btn" to={`/jobs/${view.id}/report`}>
          <ScrollText size={18} aria-hidden /> Report
        </Link>
        <a className="btn" href={`/api/jobs/${view.id}/export`} download>
          <Download size={18} aria-hidden /> Job file
        </a>
      </nav>
    </div>
  )
}
