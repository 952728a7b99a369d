import { ArrowLeft } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Setup, View } from '../api/client'
import { useJob, useMeasuring, useSit } from '../api/queries'
import { ConditionsForm } from '../job/ConditionsForm'
import { conditionsInWords, driveName, driveOf, lastSitting, setupOf, simulatedOn } from '../job/view'
import { Empty, Query, SideMark, Simulated, sideName } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { Outcome } from './Outcome'
import { Running } from './Running'
import { StartForm } from './StartForm'

/** MeasurePage measures the drive of one setup: conditions first, then the round, live, then what came of it. */
export function MeasurePage() {
  const { job: id, setup } = useParams()
  const job = useJob(id!)
  return (
    <div className="py-5">
      <Query of={job} what="the job">
        {(view) => {
          const s = setupOf(view, setup!)
          return s ? <OnSetup view={view} setup={s} /> : <Empty title="This job has no such setup." />
        }}
      </Query>
    </div>
  )
}

function OnSetup({ view, setup }: { view: View; setup: Setup }) {
  const go = useNavigate()
  const measuring = useMeasuring(view.id).data
  const sit = useSit(view.id)
  const sitting = lastSitting(view, setup.id)
  const [anew, setAnew] = useState(false)
  const simulated = simulatedOn(view, setup)
  const [dir, setDir] = useState(() => localStorage.getItem('measure-dir') ?? '')
  useShortcuts(
    useMemo(() => [{ key: 'Escape', label: 'Back to the job', run: () => void go(`/jobs/${view.id}`) }], [go, view.id]),
  )
  const mine = measuring?.setup === setup.id ? measuring : undefined
  return (
    <div className="flex flex-col gap-5">
      <div>
        <Link to={`/jobs/${view.id}`} className="inline-flex items-center gap-1 text-secondary hover:text-base-content">
          <ArrowLeft size={16} aria-hidden /> {view.job.job.number} {view.job.job.customer?.name}
        </Link>
        <h1 className="flex flex-wrap items-center gap-x-3 text-3xl font-bold tracking-tight">
          <SideMark side={setup.role === 'then' ? 'then' : 'now'} size={22} />
          <span className={setup.role === 'then' ? 'text-then' : 'text-now'}>{sideName(setup.role)}:</span>
          <span>the {driveName(driveOf(view, setup))}</span>
          {simulated && <Simulated />}
        </h1>
        {sitting && (
          <p className="mt-1 text-secondary">
            {conditionsInWords(sitting.conditions).join(', ') || 'No conditions noted.'}{' '}
            {mine?.state !== 'running' && (
              <button type="button" className="link" onClick={() => setAnew(!anew)}>
                Conditions have changed
              </button>
            )}
          </p>
        )}
      </div>
      {!sitting || anew ? (
        <section>
          <h2 className="text-xl font-bold">{sitting ? 'A new sitting' : 'Test conditions'}</h2>
          <p>What differs between Then and Now makes the comparison doubtful. Note it while you can see it.</p>
          <ConditionsForm
            here={!simulated}
            dir={dir}
            verb="Save and continue"
            error={sit.error}
            busy={sit.isPending}
            onDone={(conditions) => sit.run({ setup: setup.id, conditions }, () => setAnew(false))}
          />
        </section>
      ) : mine?.state === 'running' ? (
        <Running view={view} m={mine} />
      ) : (
        <>
          {mine && <Outcome view={view} m={mine} />}
          <StartForm
            key={`${sitting.id} ${mine?.kept ?? 0} ${mine?.state ?? ''}`}
            view={view}
            setup={setup}
            sitting={sitting.id}
            simulated={simulated}
            dir={dir}
            onDir={(d) => {
              setDir(d)
              localStorage.setItem('measure-dir', d)
            }}
          />
        </>
      )}
    </div>
  )
}
