import { ChevronDown } from 'lucide-react'
import { useEffect, useRef, type ReactNode } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { Setup, Test, View } from '../api/client'
import { closerPath, measurePath, videoPath } from '../job/paths'
import { byHand, coverOf, missingRuns, reasonAside, runsOf } from '../job/view'
import { RunTable } from '../ledger/RunTable'
import { plain } from '../measure/words'
import { ByProbe } from '../probe/ByProbe'
import { LaunchForm } from '../probe/LaunchForm'
import { useProbeOn } from '../probe/probe'
import { Recorded } from '../probe/Recorded'
import { Restarts } from '../probe/Restarts'
import { OpenTimer } from '../timer/OpenTimer'
import { bytes, figure } from '../ui/format'
import { LongList } from '../ui/LongList'
import { CannotForm, EnterValue } from './EnterValue'
import { RunMarks, spread } from './RunMarks'
import { TakeTable } from './TakeTable'

/** inOrder are a setup's tests in the order in which they are best done: by hand while the computer is cold, what is read off, what runs by itself. */
function inOrder(view: View): Test[] {
  const rank = (t: Test) => (byHand(view, t) ? 0 : view.coverage.some((c) => c.test === t.id && c.automatic) ? 2 : 1)
  return view.job.tests.filter((t) => !t.retired).sort((a, b) => rank(a) - rank(b))
}

/** TestList is every test of the plan on one setup; one opens in place. */
export function TestList({ view, setup }: { view: View; setup: Setup }) {
  const [search, setSearch] = useSearchParams()
  const open = search.get('test')
  const tests = [...inOrder(view), ...view.job.tests.filter((t) => t.retired && runsOf(view, t.id, setup.id).length > 0)]
  const toggle = (id: string) => setSearch(open === id ? {} : { test: id }, { replace: true, preventScrollReset: true })
  return (
    <section aria-labelledby="tests">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 id="tests" className="text-xl font-bold">
          Tests
        </h2>
        <span className="ml-auto">
          <TakeTable view={view} />
        </span>
      </div>
      <LongList items={tests} keyOf={(t) => t.id} height={72} reveal={tests.findIndex((t) => t.id === open)} itemClass="border-b border-base-300">
        {(t) => <TestRow view={view} test={t} setup={setup} open={open === t.id} onToggle={() => toggle(t.id)} />}
      </LongList>
    </section>
  )
}

function TestRow({ view, test, setup, open, onToggle }: { view: View; test: Test; setup: Setup; open: boolean; onToggle: () => void }) {
  const cover = coverOf(view, test.id, setup.id)
  const row = useRef<HTMLDivElement>(null)
  const probe = useProbeOn(view, setup.id)
  useEffect(() => {
    if (open) row.current?.scrollIntoView?.({ block: 'nearest' })
  }, [open])
  if (!cover) return null
  const side = setup.role === 'then' ? 'then' : 'now'
  const runs = runsOf(view, test.id, setup.id)
  const kept = runs.filter((r) => reasonAside(r) === undefined)
  const aside = runs.filter((r) => r.set_aside && !r.repeat).length
  const missing = missingRuns(view, test, setup.id)
  const values = kept.map((r) => r.value)
  const within = spread(values)
  return (
    <div ref={row} className="py-0.5">
      <div className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 sm:grid-cols-[minmax(0,1fr)_auto_8.5rem_auto] sm:gap-y-1">
        <button type="button" className="flex min-h-11 min-w-0 items-center gap-2 text-left max-sm:col-span-2" aria-expanded={open} onClick={onToggle}>
          <ChevronDown size={18} aria-hidden className={`shrink-0 ${open ? '' : '-rotate-90'}`} />
          <span className="min-w-0">
            <span className="block font-semibold break-words">
              {test.name}
              {test.retired && <span className="font-normal text-secondary"> (removed)</span>}
              {test.replaces && <span className="font-normal text-secondary"> (changed)</span>}
            </span>
            <span className="block text-sm text-secondary">
              {cover.cannot ? `Can’t be measured: ${cover.cannot}` : values.length > 0 ? values.slice(-4).map((v) => figure(v, '').trim()).join(' · ') + ` ${test.unit}` : how(view, test)}
              {aside > 0 && ` · ${aside} set aside`}
            </span>
          </span>
        </button>
        <div className="contents max-sm:flex max-sm:items-center max-sm:gap-3 max-sm:pl-7">
          <span>{!cover.cannot && <RunMarks values={values.slice(-30)} missing={missing} side={side} />}</span>
          <span className="text-sm max-sm:min-w-24">
            {!cover.cannot && (
              <>
                {cover.wanted > 0 ? `${cover.kept} of ${cover.wanted}` : `${cover.kept} runs`}
                {within !== undefined && <span className="text-secondary"> · ± {within < 10 ? within.toFixed(1) : within.toFixed(0)} %</span>}
                <span className="block font-semibold"> {cover.enough ? (missing > 0 ? 'enough already' : 'enough') : missing > 0 ? '' : 'done'}</span>
              </>
            )}
          </span>
        </div>
        <span className="justify-self-end">{!test.retired && !cover.cannot && <Begin view={view} test={test} setup={setup} missing={missing} automatic={cover.automatic} onType={onToggle} open={open} />}</span>
      </div>
      {open && (
        <div className="flex flex-col gap-3 border-l-4 border-base-300 py-2 pl-4 sm:ml-2">
          {missing > 0 && cover.hint && <p className="font-semibold">{cover.hint}</p>}
          <p className="text-sm text-secondary">{parameters(view, test)}</p>
          {restarted(test) && !test.retired && !cover.cannot && <Restarts key={probe?.id} view={view} test={test} setup={setup} probe={probe} />}
          {recorded(test) && !test.retired && !cover.cannot && <Recorded key={probe?.id} view={view} test={test} setup={setup} probe={probe} />}
          {!test.retired && !cover.cannot && test.kind !== 'drive' && <EnterValue view={view} test={test} setup={setup} onKept={() => missing === 1 && onToggle()} />}
          {launchable(view, test) && probe && <LaunchForm key={probe.id} view={view} test={test} setup={setup} probe={probe} />}
          <RunTable view={view} test={test} runs={runsOf(view, test.id, setup.id)} side={side} title="Runs" />
          <div className="flex flex-wrap items-start gap-2">
            {probe && test.what === 'restart' && !hasRuns(view, test.id) && <ByProbe view={view} test={test} />}
            {byHand(view, test) && !restarted(test) && !recorded(test) && !test.retired && <OtherMeans view={view} test={test} setup={setup} />}
            {kept.length > 0 && (
              <Link className="btn btn-sm" to={closerPath(view.id, test.id)}>
                Show details
              </Link>
            )}
            {!test.retired && <CannotForm view={view} test={test} setup={setup} cannot={cover.cannot} done={missing === 0} />}
          </div>
        </div>
      )}
    </div>
  )
}

/** launchable reports whether a test is the launch of a program in one piece, which a probe can time. */
const launchable = (v: View, t: Test) => byHand(v, t) && t.kind === 'timed' && !t.retired && !t.start_kind && !t.phases?.length

/** restarted reports whether a test is the restart that a probe times by itself. */
const restarted = (t: Test) => t.what === 'restart-watch'

/** recorded reports whether a test is a start that the computer's system recorded by itself. */
const recorded = (t: Test) => t.what === 'start-recorded'

/** hasRuns reports whether a test was run on any drive. */
const hasRuns = (v: View, test: string) => v.job.setups.some((s) => runsOf(v, test, s.id).length > 0)

/** OtherMeans offers the means that the row doesn't, with what follows where Then used another one. */
function OtherMeans({ view, test, setup }: { view: View; test: Test; setup: Setup }) {
  const before = methodBefore(view, test, setup)
  return (
    <>
      {before === 'video' ? (
        <OpenTimer view={view} setup={setup.id} test={test.id} size="sm">
          Time it by hand
        </OpenTimer>
      ) : (
        <Link className="btn btn-sm" to={videoPath(view.id, setup.id, test.id)}>
          Time it from a video
        </Link>
      )}
      {before && <p className="basis-full text-sm text-secondary">Then was {methodWords[before] ?? before}. With another method, the result says that they differ.</p>}
    </>
  )
}

/** Begin is the one button of a row. */
function Begin({ view, test, setup, missing, automatic, open, onType }: { view: View; test: Test; setup: Setup; missing: number; automatic: boolean; open: boolean; onType: () => void }): ReactNode {
  const name = (verb: string) => `${verb}: ${test.name}`
  if (automatic) {
    return (
      <Link to={`${measurePath(view.id, setup.id)}?test=${test.id}`} className={`btn ${missing > 0 ? '' : 'btn-ghost'}`} aria-label={name(missing > 0 ? 'Measure' : 'Measure again')}>
        {missing > 0 ? 'Measure' : 'Again'}
      </Link>
    )
  }
  if (restarted(test) || recorded(test)) {
    const verb = restarted(test) ? 'Restart' : 'Show starts'
    return open ? null : (
      <button type="button" className={`btn ${missing > 0 ? '' : 'btn-ghost'}`} aria-label={name(missing > 0 ? verb : `${verb} again`)} onClick={onType}>
        {missing > 0 ? verb : 'Again'}
      </button>
    )
  }
  if (byHand(view, test)) {
    // Now uses the means that Then used; the timer stays a choice in the opened row.
    if (methodBefore(view, test, setup) === 'video') {
      return (
        <Link className={`btn ${missing > 0 ? '' : 'btn-ghost'}`} to={videoPath(view.id, setup.id, test.id)} aria-label={name(missing > 0 ? 'Time from a video' : 'Time from a video again')}>
          {missing > 0 ? 'Time from a video' : 'Again'}
        </Link>
      )
    }
    return (
      <OpenTimer view={view} setup={setup.id} test={test.id} tone={missing > 0 ? 'plain' : 'ghost'} aria-label={name(missing > 0 ? 'Time it' : 'Time again')}>
        {missing > 0 ? 'Time it' : 'Again'}
      </OpenTimer>
    )
  }
  if (open) return null
  return (
    <button type="button" className={`btn ${missing > 0 ? '' : 'btn-ghost'}`} aria-label={name(missing > 0 ? 'Enter value' : 'Enter again')} onClick={onType}>
      {missing > 0 ? 'Enter value' : 'Again'}
    </button>
  )
}

const methodWords: Record<string, string> = { stopwatch: 'timed by hand', video: 'timed from a video', 'finish-line': 'timed by hand, with a finish line', automatic: 'timed automatically', typed: 'typed in' }

/** methodBefore is the means by which a test was measured on Then, where this is another side; undefined where there is none, or several. */
function methodBefore(view: View, test: Test, setup: Setup): string | undefined {
  const then = view.job.setups.find((s) => s.role === 'then')
  if (!then || then.id === setup.id) return undefined
  const used = new Set(runsOf(view, test.id, then.id).filter((r) => !r.set_aside).map((r) => r.method))
  return used.size === 1 ? [...used][0] : undefined
}

/** how says how a test is measured. */
const how = (v: View, t: Test) => [t.warmth, restarted(t) || recorded(t) ? 'by the probe' : byHand(v, t) ? 'timed by hand' : t.params || t.file_work ? 'runs unattended' : 'read off', t.content].filter(Boolean).join(', ')

/** parameters says what a test does: in plain words where the program does it, else how it is measured. */
function parameters(v: View, t: Test): string {
  if (restarted(t)) return 'From the probe’s last sign to its first after the start.'
  const words = plain(t)
  if (t.params?.stop_half_width && !t.params.existing) return `${words.slice(0, -1)}, over ${bytes(t.params.span_bytes)}.`
  if (words) return words
  if (t.phases?.length) return t.phases.map((p) => (p.counts === false ? `(${p.name}, not counted)` : p.name)).join(' · ')
  return how(v, t)
}
