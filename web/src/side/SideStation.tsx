import { useParams } from 'react-router'
import type { Setup, View } from '../api/client'
import { Gate } from '../job/Gate'
import { useView } from '../job/JobFrame'
import type { Page } from '../job/paths'
import { kindOf, stationName, stationsOf } from '../job/stations'
import { NextPanel } from '../job/NextPanel'
import { driveName, driveOf, nowOf, setupAs, setupName, setupOf, simulatedOn } from '../job/view'
import { ProbeLine } from '../probe/ProbeLine'
import { Checks } from '../swap/Checks'
import { StepList } from '../swap/StepList'
import { Heading } from '../ui/Heading'
import { Empty, SideMark, Simulated } from '../ui/parts'
import { Budget } from './Budget'
import { ConditionsLine } from './ConditionsLine'
import { OldDrive } from './OldDrive'
import { Sittings } from './Sittings'
import { TestList } from './TestList'

/** ThenStation is where the computer is measured as it came. */
export function ThenStation() {
  const view = useView()
  const s = setupAs(view, 'then')
  if (s) return <Side view={view} setup={s} page="then" />
  return (
    <>
      <Heading title="Then">Then</Heading>
      <Empty title="This job has no Then." />
    </>
  )
}

/** NowStation is where it is measured as it goes back. */
export function NowStation() {
  const view = useView()
  const s = nowOf(view)
  if (s) return <Side view={view} setup={s} page="now" />
  return (
    <>
      <Heading title="Now">Now</Heading>
      <NextPanel view={view} page="now" />
      <Empty title="The new drive isn’t entered yet." />
    </>
  )
}

/** TrialStation is where a candidate is measured. */
export function TrialStation() {
  const view = useView()
  const s = setupOf(view, useParams().setup!)
  return s ? <Side view={view} setup={s} page={kindOf(view) === 'comparison' ? s.id : 'now'} trial /> : (
    <>
      <Heading title="Trial">Trial</Heading>
      <Empty title="This job has no such trial." />
    </>
  )
}

/** Side is one side's station: what is next, the conditions, the tests, and the gate at its end. */
function Side({ view, setup, page, trial }: { view: View; setup: Setup; page: Page; trial?: boolean }) {
  const side = setup.role === 'then' ? 'then' : 'now'
  const name = trial ? setupName(setup) : stationName(view, page)
  const upgrade = kindOf(view) === 'upgrade'
  const last = upgrade ? !trial && page === 'now' : stationsOf(view).findLast((s) => s.key !== 'compare' && s.key !== 'report')?.key === page
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <Heading title={`${name}, ${view.job.job.number}`}>
          <span className={`flex items-center gap-2 ${side === 'then' ? 'text-then' : 'text-now'}`}>
            <SideMark side={side} size={20} /> {name}
          </span>
        </Heading>
        <span className="text-lg">{driveName(driveOf(view, setup))}</span>
        {simulatedOn(view, setup) && <Simulated small />}
      </div>
      <NextPanel view={view} page={page} />
      {setup.role === 'then' && upgrade && <OldDrive view={view} setup={setup} />}
      <ProbeLine view={view} setup={setup} />
      <div>
        <ConditionsLine key={setup.id} view={view} setup={setup} />
        {setup.role === 'now' && upgrade && <Checks job={view.id} setup={setup.id} view={view} />}
      </div>
      <TestList view={view} setup={setup} />
      <Budget view={view} setup={setup} />
      <Sittings view={view} setup={setup} />
      {upgrade && !trial && <StepList view={view} when={page === 'then' ? 'then' : 'now'} without={page === 'then' ? 'backup' : undefined} />}
      {last && <Gate view={view} name="measured-again" />}
    </div>
  )
}
