import { Gate } from '../job/Gate'
import { useView } from '../job/JobFrame'
import { NextBar, NextPanel } from '../job/NextPanel'
import { driveName, driveOf, nowOf, setupAs } from '../job/view'
import { ProbeLine } from '../probe/ProbeLine'
import { Heading } from '../ui/Heading'
import { SideMark } from '../ui/parts'
import { CarryOver } from './CarryOver'
import { StepList } from './StepList'
import { StillThere } from './StillThere'
import { Tasks } from './Tasks'
import { Work } from './Work'

/** SwapStation is the work between Then and Now: its steps with photos in the order of the hands; the rest is folded. */
export function SwapStation() {
  const view = useView()
  const then = setupAs(view, 'then')
  const now = nowOf(view)
  return (
    <div className="flex flex-col gap-4">
      <div className="flex flex-wrap items-baseline gap-x-5">
        <Heading title={`Swap, ${view.job.job.number}`}>Swap</Heading>
        <p className="flex flex-wrap items-center gap-x-3 text-lg">
          <SideMark side="then" /> {driveName(driveOf(view, then))} <span aria-hidden>→</span> <SideMark side="now" /> {driveName(driveOf(view, now))}
        </p>
      </div>
      {view.next.do === 'close' ? <NextBar view={view} /> : <NextPanel view={view} page="swap" />}
      <ProbeLine view={view} />
      <StillThere view={view} />
      <StepList view={view} when="swap" />
      {view.job.plan.steps?.some((s) => s.when === 'close') && <Gate view={view} name="case-closed" />}
      <CarryOver view={view} />
      <Work view={view} />
      <Tasks view={view} />
    </div>
  )
}
