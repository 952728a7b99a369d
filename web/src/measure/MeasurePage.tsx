import { ArrowLeft } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Setup, View } from '../api/client'
import { useMeasuring } from './queries'
import { useHere } from '../job/queries'
import { useSit } from '../side/queries'
import { useView } from '../job/JobFrame'
import { sidePath } from '../job/paths'
import { ConditionsForm } from '../side/ConditionsForm'
import { conditionsInWords, driveName, driveOf, lastSitting, setupName, setupOf, simulatedOn } from '../job/view'
import { useProbeHolding } from '../probe/probe'
import { Heading } from '../ui/Heading'
import { Empty, SideMark, Simulated, sideName } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { Folder } from './Folder'
import { Outcome } from './Outcome'
import { Running } from './Running'
import { StartForm } from './StartForm'

/** MeasurePage measures the drive of one setup: conditions first, then the round, live, then its result. */
export function MeasurePage() {
  const view = useView()
  const setup = setupOf(view, useParams().setup!)
  return setup ? <OnSetup view={view} setup={setup} /> : <Empty title="This job has no such setup." />
}

function OnSetup({ view, setup }: { view: View; setup: Setup }) {
  const go = useNavigate()
  const back = sidePath(view.id, setup)
  const measuring = useMeasuring(view.id).data
  const sit = useSit(view.id)
  const sitting = lastSitting(view, setup.id)
  const [anew, setAnew] = useState(false)
  const probe = useProbeHolding(view, setup.id)
  // Neither needs a folder of this computer.
  const simulated = simulatedOn(view, setup)
  const elsewhere = simulated || probe !== undefined
  // Each side of a job has its own folder: another folder would be another drive.
  const remembered = `measure-dir/${view.id}/${setup.id}`
  const [dir, setDir] = useState(() => localStorage.getItem(remembered) ?? '')
  const here = useHere(view, setup)
  useShortcuts(
    useMemo(() => [{ key: 'Escape', label: 'Back to the job', run: () => void go(back) }], [go, back]),
  )
  const keepDir = (d: string) => {
    setDir(d)
    localStorage.setItem(remembered, d)
  }
  const mine = measuring?.setup === setup.id ? measuring : undefined
  return (
    <div className="flex flex-col gap-5">
      <div>
        <Link to={back} className="inline-flex items-center gap-1 text-secondary hover:text-base-content">
          <ArrowLeft size={16} aria-hidden /> Back to {setupName(setup)}
        </Link>
        <Heading title={`Measuring, ${view.job.job.number}`} className="flex flex-wrap items-center gap-x-3 text-3xl font-bold tracking-tight">
          <SideMark side={setup.role === 'then' ? 'then' : 'now'} size={22} />
          <span className={setup.role === 'then' ? 'text-then' : 'text-now'}>{sideName(setup.role)}:</span>
          <span>the {driveName(driveOf(view, setup))}</span>
          {(simulated || Boolean(probe?.simulated)) && <Simulated />}
        </Heading>
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
          {!elsewhere && <Folder dir={dir} onDir={keepDir} />}
          <h2 className="mt-4 text-xl font-bold">{sitting ? 'A new session' : 'Test conditions'}</h2>
          <p>Differences between Then and Now make the comparison less certain. Note it while you can see it.</p>
          <ConditionsForm
            here={here && !elsewhere}
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
            probe={probe}
            dir={dir}
            onDir={keepDir}
          />
        </>
      )}
    </div>
  )
}
