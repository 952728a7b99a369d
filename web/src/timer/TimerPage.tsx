import { ArrowLeft } from 'lucide-react'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Setup, Test, Timer, View } from '../api/client'
import { useArmTimer, useTimer } from './queries'
import { useJob, useHere } from '../job/queries'
import { useSit } from '../side/queries'
import { ConditionsForm } from '../side/ConditionsForm'
import { timerPath } from '../job/paths'
import { lastSitting, setupOf, testOf } from '../job/view'
import { Heading } from '../ui/Heading'
import { Empty, Loading, Query, Refusal, sideName } from '../ui/parts'
import { technician } from '../ui/technician'
import { Glass } from './Glass'

/** TimerPage times one test on one setup by hand. It fills the screen. */
export function TimerPage() {
  const { job: id, setup, test } = useParams()
  const job = useJob(id!)
  return (
    <main className="flex min-h-dvh flex-col">
      <Query of={job} what="the job">
        {(view) => {
          const s = setupOf(view, setup!)
          const t = testOf(view, test!)
          if (!s || !t) return <Empty title="This job has no such test or setup." />
          return <Armed view={view} setup={s} test={t} />
        }}
      </Query>
    </main>
  )
}

function Armed({ view, setup, test }: { view: View; setup: Setup; test: Test }) {
  const timer = useTimer(view.id)
  const arm = useArmTimer(view.id)
  const sit = useSit(view.id)
  // What was asked for here is waited for: a press made in the meantime would arm another timer.
  const [arming, setArming] = useState(false)
  const sitting = lastSitting(view, setup.id)
  const armed = timer.data
  const here = useHere(view, setup)
  const fits = armed?.test === test.id && armed.setup === setup.id

  if (!sitting) {
    return (
      <Framed view={view}>
        <Heading title="Test conditions">Test conditions</Heading>
        <p>
          {sideName(setup.role)}: {test.name}
        </p>
        <ConditionsForm
          here={here}
          verb="Save and go to the timer"
          error={sit.error}
          busy={sit.isPending}
          onDone={(conditions) => {
            if (arming) return
            setArming(true)
            sit
              .runAsync({ setup: setup.id, conditions })
              .then((v) => arm.runAsync({ test: test.id, sitting: lastSitting(v, setup.id)!.id, by: technician.get() }))
              .catch(() => {}) // the form says what became of the sitting; a timer that is not armed is armed by its first press
              .finally(() => setArming(false))
          }}
        />
      </Framed>
    )
  }
  // The known state of the timer stays on the screen even if fetching it again fails: somebody's thumb is on a power button.
  const unknown = timer.data === undefined
  if (arming || unknown) return <Framed view={view}>{unknown && timer.error ? <Refusal error={timer.error} again={() => void timer.refetch()} /> : <Loading what="the timer" />}</Framed>
  if (armed && !fits && armed.state !== 'ready') {
    return (
      <Framed view={view}>
        <Refusal error={new Error('The timer holds a time for another test. Keep it or set it aside first.')} />
        <Link className="btn btn-primary mt-4 self-start" to={timerPath(view.id, armed.setup, armed.test)}>
          Go to that time: {armed.name}
        </Link>
      </Framed>
    )
  }
  // A page that was opened by its address arms the timer with its first press; the way here from the job's page has armed it already.
  return <Glass view={view} setup={setup} test={test} timer={fits ? armed : unarmed(view, setup, test, sitting.id)} />
}

/** unarmed is a timer as it will be once the first press arms it. */
function unarmed(view: View, setup: Setup, test: Test, sitting: string): Timer {
  const phases = test.phases?.length ? test.phases.map((p) => ({ id: p.id, name: p.name, counts: p.counts !== false })) : [{ id: '', name: '', counts: true }]
  return {
    id: '', job: view.id, test: test.id, name: test.name, sitting, setup: setup.id, state: 'ready', phases, marks_ms: [], holds: [], taken: [], now_ms: 0, value: null, held_s: 0,
    u: 0, reaction: 0, calibrated: false, by: technician.get(), finish: '', pages: test.pages ?? 1, opened: 0, ended: false, series: 0,
  }
}

function Framed({ view, children }: { view: View; children: React.ReactNode }) {
  return (
    <div className="mx-auto flex w-full max-w-4xl flex-col gap-2 p-4 md:p-8">
      <Link to={`/jobs/${view.id}`} className="mb-3 inline-flex items-center gap-1 text-secondary">
        <ArrowLeft size={16} aria-hidden /> {view.job.job.number} {view.job.job.customer?.name}
      </Link>
      {children}
    </div>
  )
}
