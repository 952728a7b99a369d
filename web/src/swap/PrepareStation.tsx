import type { View } from '../api/client'
import { useAmendJob } from '../intake/queries'
import { Gate } from '../job/Gate'
import { useView } from '../job/JobFrame'
import { NextBar, NextPanel } from '../job/NextPanel'
import { nowOf, setupAs } from '../job/view'
import { ProbeLine } from '../probe/ProbeLine'
import { Choice } from '../ui/Choice'
import { Fold } from '../ui/Fold'
import { Heading } from '../ui/Heading'
import { Refusal } from '../ui/parts'
import { FilesListed } from './CarryOver'
import { useSwap } from './queries'
import { Fit } from './Fit'
import { Fitting } from './Fitting'
import { Genuine } from './Genuine'
import { Heaviest } from './Heaviest'
import { StepList } from './StepList'
import { Which } from './Which'

/** PrepareStation is what needs the old drive in place, before it comes out. */
export function PrepareStation() {
  const view = useView()
  const then = setupAs(view, 'then')
  const listed = useSwap(view.id).data?.listed
  return (
    <div className="flex flex-col gap-4">
      <Heading title={`Prepare, ${view.job.job.number}`}>Prepare</Heading>
      {view.next.do === 'take-out' ? <NextBar view={view} /> : <NextPanel view={view} page="prepare" />}
      <ProbeLine view={view} setup={then} />
      <Fit job={view.id} />
      <Heaviest view={view} />
      <Fitting view={view} />
      <Genuine view={view} />
      <Which view={view} />
      <Fold title="File list" status={view.job.job.carried ? 'compared' : listed ? 'listed' : 'shows after the swap what came across'}>
        <FilesListed view={view} />
      </Fold>
      <Across view={view} />
      <StepList view={view} when="prepare" />
      <Gate view={view} name="old-drive-out" />
    </div>
  )
}

/** Across is how the system comes onto the new drive. */
function Across({ view }: { view: View }) {
  const amend = useAmendJob(view.id)
  const now = nowOf(view)
  if (!now) return null
  return (
    <section aria-labelledby="across" className="border-t border-base-300 pt-2">
      <h2 id="across" className="mb-2 text-xl font-bold">
        How the system gets onto the new drive
      </h2>
      <Choice
        label="The system is"
        value={now.system?.origin || undefined}
        options={[
          { value: 'cloned', label: 'Cloned' },
          { value: 'restored', label: 'Restored from a backup' },
          { value: 'fresh', label: 'Installed fresh' },
        ]}
        onChange={(origin) => amend.run({ origin })}
      />
      {amend.error && <Refusal error={amend.error} />}
    </section>
  )
}
