import { useAmendJob } from '../api/queries'
import { InUse } from '../intake/Drives'
import { Gate } from '../job/Gate'
import { useView } from '../job/JobFrame'
import { NextPanel } from '../job/NextPanel'
import { driveName, driveOf, nowOf, setupAs } from '../job/view'
import { ProbeLine } from '../probe/ProbeLine'
import { Choice } from '../ui/Choice'
import { Heading } from '../ui/Heading'
import { Refusal, SideMark } from '../ui/parts'
import { CarryOver } from './CarryOver'
import { Fit } from './Fit'
import { Fitting } from './Fitting'
import { Genuine } from './Genuine'
import { Heaviest } from './Heaviest'
import { StepList } from './StepList'
import { Tasks } from './Tasks'
import { Which } from './Which'
import { Work } from './Work'

/** SwapStation is the work between Then and Now: its steps with photos, how the system comes across, and what else was done. */
export function SwapStation() {
  const view = useView()
  const amend = useAmendJob(view.id)
  const then = setupAs(view, 'then')
  const now = nowOf(view)
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-baseline gap-x-5">
        <Heading title={`The swap, ${view.job.job.number}`}>The swap</Heading>
        <p className="flex flex-wrap items-center gap-x-3 text-lg">
          <SideMark side="then" /> {driveName(driveOf(view, then))} <span aria-hidden>→</span> <SideMark side="now" /> {driveName(driveOf(view, now))}
        </p>
      </div>
      <NextPanel view={view} page="swap" />
      <ProbeLine view={view} />
      <Which view={view} />
      <Fit job={view.id} />
      <Heaviest view={view} />
      <Fitting view={view} />
      <Genuine view={view} />
      <div className="grid gap-x-8 gap-y-6 lg:grid-cols-2">
        <div className="flex flex-col gap-6">
          <StepList view={view} when="swap" />
          {view.job.plan.steps?.some((s) => s.when === 'close') && <Gate view={view} name="case-closed" />}
        </div>
        <div className="flex flex-col gap-6">
          {now && (
            <section aria-labelledby="across">
              <h2 id="across" className="mb-2 text-xl font-bold">
                How the system gets onto the new drive
              </h2>
              <div className="flex flex-wrap items-end gap-6">
                <Choice
                  label="On the new drive it is"
                  value={now.system?.origin || undefined}
                  options={[
                    { value: 'cloned', label: 'Cloned' },
                    { value: 'restored', label: 'Restored from a backup' },
                    { value: 'fresh', label: 'Installed fresh' },
                  ]}
                  onChange={(origin) => amend.run({ origin })}
                />
                <InUse view={view} setup={now} />
              </div>
              {amend.error && <Refusal error={amend.error} />}
            </section>
          )}
          <CarryOver view={view} />
          <Work view={view} />
          <Tasks view={view} />
        </div>
      </div>
    </div>
  )
}
