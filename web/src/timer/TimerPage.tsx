import { ArrowLeft } from 'lucide-react'
import { useEffect } from 'react'
import { Link, useParams } from 'react-router'
import type { Setup, Test, View } from '../api/client'
import { useArmTimer, useJob, useSit, useTimer } from '../api/queries'
import { ConditionsForm } from '../job/ConditionsForm'
import { timerPath } from '../job/paths'
import { lastSitting, setupOf, simulatedOn, testOf } from '../job/view'
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
  const sitting = lastSitting(view, setup.id)
  const armed = timer.data
  const fits = armed?.test === test.id && armed.setup === setup.id
  const { mutate, isPending, error } = arm

  // The timer is armed as soon as it is known what for; the bench does not take an unkept time away.
  const loaded = timer.isSuccess
  useEffect(() => {
    if (loaded && sitting && !fits && !isPending && !error) mutate({ test: test.id, sitting: sitting.id, by: technician.get() })
  }, [loaded, sitting, fits, isPending, error, mutate, test.id])

  if (!sitting) {
    return (
      <Framed view={view}>
        <h1 className="text-3xl font-bold">First: what is so while measuring?</h1>
        <p>
          {sideName(setup.role)}: {test.name}
        </p>
        <ConditionsForm
          here={!simulatedOn(view, setup)}
          verb="That is so: to the timer"
          error={sit.error}
          busy={sit.isPending}
          onDone={(conditions) => sit.mutate({ setup: setup.id, conditions })}
        />
      </Framed>
    )
  }
  if (fits) return <Glass view={view} setup={setup} test={test} timer={armed} />
  return (
    <Framed view={view}>
      {error || timer.error ? <Refusal error={error ?? timer.error} /> : <Loading what="the timer" />}
      {error && armed && (
        <Link className="btn btn-primary mt-4 self-start" to={timerPath(view.id, armed.setup, armed.test)} onClick={() => arm.reset()}>
          To that time: {armed.name}
        </Link>
      )}
    </Framed>
  )
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
