import { ArrowLeft, Pause, Play, RotateCcw } from 'lucide-react'
import { useEffect, useMemo, useRef, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import type { Schemas, View } from '../api/client'
import { Help } from '../app/Help'
import { useClips } from '../video/queries'
import { useCloser } from '../closer/queries'
import { useJob } from '../job/queries'
import { driveName, driveOf } from '../job/view'
import { setupOf, sideName } from '../ledger/sides'
import { Heading } from '../ui/Heading'
import { clock, lasted } from '../ui/format'
import { Empty, Query, SideMark, Simulated } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { behind, countedBy, fair, finished, lengthOf, racersOf, speeds, type Racer } from './race'

/** RacePage replays a timed test on both sides at once, in real time. */
export function RacePage() {
  const { job: id, test } = useParams()
  const job = useJob(id!)
  const closer = useCloser(id!, test!)
  return (
    <main className="flex min-h-dvh flex-col">
      <Query of={job} what="the job">
        {(view) => (
          <Query of={closer} what="the runs">
            {(c) => <Race view={view} closer={c} />}
          </Query>
        )}
      </Query>
    </main>
  )
}

/** most is how many setups race at once. */
const most = 4

function Race({ view, closer }: { view: View; closer: Schemas['Closer'] }) {
  const go = useNavigate()
  const [params] = useSearchParams()
  const wanted = params.get('setups')?.split(',')
  const setups = (wanted ?? view.job.setups.map((s) => s.id)).slice(0, most)
  const clips = useClips(view.id)
  // Where every side was filmed, the films themselves race.
  const here = (clip: string) => clips.data?.clips.some((c) => c.id === clip && !c.gone) ?? false
  const filmedRacers = racersOf(closer, setups, (r) => r.video !== undefined && here(r.video.clip))
  const filmed = filmedRacers.length >= 2
  // A film runs as it was filmed; otherwise what does not count is as long for all.
  const racers = filmed ? filmedRacers : fair(racersOf(closer, setups))
  const everyone = racersOf(closer, view.job.setups.map((s) => s.id)).map((r) => r.setup).slice(0, most)
  const length = lengthOf(racers)
  const race = useRace(length)
  const { toggle, again } = race
  useShortcuts(
    useMemo(
      () => [
        { key: ' ', label: 'Play or pause', always: true, run: toggle },
        { key: 'r', label: 'Replay from the start', run: again },
        { key: 'Escape', label: 'Back to the ledger', run: () => void go(`/jobs/${view.id}/ledger`) },
      ],
      [toggle, again, go, view.id],
    ),
  )
  const done = racers.filter((r) => finished(r, race.at))
  return (
    <>
      <header className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 px-4 py-2 md:px-8">
        <Link to={`/jobs/${view.id}/ledger`} className="inline-flex items-center gap-1 text-secondary hover:text-base-content">
          <ArrowLeft size={16} aria-hidden /> Ledger
        </Link>
        <Heading title="Race" className="text-xl font-bold">{closer.test.name}: side by side</Heading>
        {racers.some((r) => r.run.simulated) && <Simulated small />}
        {everyone.length > racers.length && (
          <Link className="btn btn-sm" to={`?setups=${everyone.join(',')}`} replace>
            All {everyone.length} drives
          </Link>
        )}
        <span className="join ml-auto" role="group" aria-label="Speed">
          {speeds.map((s) => (
            <button key={s} type="button" aria-pressed={race.speed === s} className={`btn btn-sm join-item ${race.speed === s ? 'btn-primary' : ''}`} onClick={() => race.setSpeed(s)}>
              {s}×
            </button>
          ))}
        </span>
        <Help />
      </header>
      {racers.length < 2 ? (
        <div className="p-8">
          <Empty title="A race needs runs on two setups.">
            <Link className="btn btn-primary" to={`/jobs/${view.id}`}>
              To the job
            </Link>
          </Empty>
        </div>
      ) : (
        <>
          <div className="flex flex-1 flex-col justify-evenly gap-4 px-4 py-4 md:px-8">
            {racers.map((r) => (
              <Lane key={r.setup} view={view} racer={r} racers={racers} at={race.at} length={length} clips={filmed} running={race.running} speed={race.speed} />
            ))}
          </div>
          <footer className="sticky bottom-0 z-10 flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-base-300 bg-base-100 px-4 py-3 md:px-8">
            <button type="button" className="btn btn-primary btn-lg" onClick={race.at >= length ? again : toggle}>
              {race.at >= length ? <RotateCcw size={20} aria-hidden /> : race.running ? <Pause size={20} aria-hidden /> : <Play size={20} aria-hidden />}
              {race.at >= length ? 'Once more' : race.running ? 'Pause' : 'Go'} <kbd className="key max-sm:hidden">Space</kbd>
            </button>
            <input
              type="range"
              className="range flex-1"
              aria-label="Time of the race"
              min={0}
              max={length}
              step={0.05}
              value={race.at}
              onChange={(e) => race.seek(Number(e.target.value))}
            />
            <span className="w-24 text-right text-2xl font-bold">{lasted(race.at)}</span>
          </footer>
        </>
      )}
      <p className="sr-only" role="status">
        {done.length > 0 && `Through: ${done.map((r) => sideName(view, r.setup)).join(', ')}`}
      </p>
    </>
  )
}

/** Lane is one side: its clock, its phases as a lane that runs to the right, and its finish. */
function Lane({ view, racer: r, racers, at, length, clips, running, speed }: { view: View; racer: Racer; racers: Racer[]; at: number; length: number; clips: boolean; running: boolean; speed: number }) {
  const setup = setupOf(view, r.setup)!
  const name = sideName(view, r.setup)
  const side = setup.role === 'then' ? 'then' : 'now'
  const through = finished(r, at)
  const late = behind(r, racers)
  const first = Math.min(...racers.map((o) => o.lasts))
  const here = r.pieces.find((p) => at >= p.from && at < p.to)
  const pct = (s: number) => (s / length) * 100
  return (
    <section aria-label={name} className="grid items-center gap-x-6 gap-y-1 md:grid-cols-[15rem_minmax(0,1fr)]">
      <div>
        <h2 className={`flex items-center gap-2 text-2xl font-bold ${side === 'then' ? 'text-then' : 'text-now'}`}>
          <SideMark side={side} size={20} /> {name}
        </h2>
        <p className="text-secondary">{driveName(driveOf(view, setup))}</p>
        <p className={`text-7xl leading-none font-bold tabular-nums ${through ? '' : here && !here.counts ? 'text-secondary' : ''}`}>{clock(countedBy(r, at))}</p>
      </div>
      <div>
        {clips && r.run.video && <Film job={view.id} racer={r} at={at} running={running && !through} speed={speed} />}
        <div className="relative h-20 overflow-hidden rounded-box bg-base-200">
          {r.pieces.map((p) => {
            const width = Math.max(0, Math.min(at, p.to) - p.from)
            if (width === 0) return null
            return (
              <div
                key={p.id}
                className={`absolute inset-y-0 flex items-center overflow-hidden border-r-2 border-base-100 px-2 text-sm font-semibold whitespace-nowrap ${
                  p.counts ? (side === 'then' ? 'bg-then text-base-100' : 'bg-now text-base-100') : side === 'then' ? 'bg-then-soft' : 'bg-now-soft'
                }`}
                style={{ left: `${pct(p.from)}%`, width: `${pct(width)}%` }}
              >
                {pct(width) > 9 && p.name}
              </div>
            )
          })}
          {!through && <div className="absolute inset-y-0 w-1 bg-base-content" style={{ left: `calc(${pct(Math.min(at, length))}% - 2px)` }} />}
          {through && <div className="absolute inset-y-0 w-2 bg-base-content" style={{ left: `calc(${pct(r.lasts)}% - 8px)` }} aria-hidden />}
        </div>
        <p className="min-h-7 text-lg">
          {through ? (
            <>
              <strong>Finish: {lasted(r.value)}</strong>
              {late > 0 && ` · ran ${lasted(late)} longer than the first`}
            </>
          ) : at > first ? (
            <strong>still {lasted(r.lasts - at)} to go, {lasted(at - first)} after the first was through</strong>
          ) : (
            (here?.name ?? '') + (here && !here.counts ? (clips ? ' (does not count)' : ' (does not count, and is as long for all)') : '')
          )}
        </p>
      </div>
    </section>
  )
}

/** Film is the clip of a side, lined up at its start mark. One that this browser does not play leaves the lane to itself. */
function Film({ job, racer, at, running, speed }: { job: string; racer: Racer; at: number; running: boolean; speed: number }) {
  const video = useRef<HTMLVideoElement>(null)
  const [broken, setBroken] = useState(false)
  const marks = racer.run.video!.marks
  const target = marks[0]!.at_s + Math.min(at, racer.lasts)
  useEffect(() => {
    const v = video.current
    if (!v) return
    // It runs by itself and is set right only where it has strayed; a picture that is set again all the time stutters.
    if (Math.abs(v.currentTime - target) > (running ? 0.25 * speed : 0.02)) v.currentTime = target
    v.playbackRate = speed
    if (running && v.paused) void v.play().catch(() => undefined)
    if (!running && !v.paused) v.pause()
  }, [target, running, speed])
  if (broken) return <p className="mb-2 text-secondary">This browser does not play {racer.run.video!.name ?? 'the clip'}.</p>
  return (
    <video
      ref={video}
      src={`/api/jobs/${job}/clips/${racer.run.video!.clip}/file`}
      muted
      playsInline
      preload="auto"
      className="mb-2 h-[22vh] rounded-box bg-neutral"
      aria-label={`Film of ${racer.run.video!.name ?? 'the run'}`}
      onError={() => setBroken(true)}
    />
  )
}

const reduced = () => window.matchMedia('(prefers-reduced-motion: reduce)').matches

/** useRace is the time of a race. Where motion is not wanted it is at the end, with the scrubber to look around. */
function useRace(length: number) {
  const [at, setAt] = useState(() => (reduced() ? length : 0))
  const [running, setRunning] = useState(false)
  const [speed, setSpeed] = useState<number>(() => (length > 120 ? 4 : length > 40 ? 2 : 1))
  useEffect(() => {
    if (!running) return
    let last: number | undefined
    let frame = requestAnimationFrame(function tick(now) {
      const step = last === undefined ? 0 : ((now - last) / 1000) * speed
      last = now
      setAt((t) => {
        if (t + step < length) return t + step
        setRunning(false)
        return length
      })
      frame = requestAnimationFrame(tick)
    })
    return () => cancelAnimationFrame(frame)
  }, [running, speed, length])
  return useMemo(
    () => ({
      at,
      running,
      speed,
      setSpeed,
      toggle: () => {
        if (at >= length) setAt(0)
        setRunning((r) => !r || at >= length)
      },
      again: () => {
        setAt(0)
        setRunning(true)
      },
      seek: (t: number) => {
        setRunning(false)
        setAt(t)
      },
    }),
    [at, running, speed, length],
  )
}
