import { Check, Download, Timer } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { Link, useLocation } from 'react-router'
import type { View } from '../api/client'
import { SideMark, Simulated } from '../ui/parts'
import { useTimer } from '../timer/queries'
import { timerPath } from './paths'
import { kindOf, stationsOf } from './stations'
import { driveName, driveOf, setupAs } from './view'

/** Docket is the head of a job, like the card that travels with a machine through a workshop; its track is the way through the job. */
export function Docket({ view }: { view: View }) {
  const { job } = view
  const computer = job.computers[0]
  const name = job.job.customer?.name
  const kind = kindOf(view)
  const machine = [computer?.maker, computer?.model].filter(Boolean).join(' ')
  const drive = (role: 'then' | 'now') => driveName(driveOf(view, setupAs(view, role)))
  return (
    <section aria-label="Docket" className="no-print sheet mt-3">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 px-4 pt-3">
        <p className="min-w-0 text-xl leading-tight font-bold tracking-tight break-words">{name || machine || 'No name yet'}</p>
        <p className="text-secondary">{job.job.number}</p>
        {name && machine && <p>{machine}</p>}
        {view.simulated && <Simulated small />}
        <p className="flex items-center gap-x-4 text-sm text-secondary max-sm:hidden md:ml-auto">
          {kind === 'comparison' && `${view.job.setups.length} drives`}
          {kind === 'upgrade' && (
            <span className="flex items-center gap-1.5">
              <SideMark side="then" /> {drive('then')}
            </span>
          )}
          {kind !== 'comparison' && (
            <span className="flex items-center gap-1.5">
              <SideMark side="now" /> {drive('now')}
            </span>
          )}
        </p>
        <RunningTimer job={view.id} />
        <Export job={view.id} />
      </div>
      <Stations view={view} />
    </section>
  )
}

/** RunningTimer leads to the job's timer while it runs. */
function RunningTimer({ job }: { job: string }) {
  const timer = useTimer(job).data
  const { pathname } = useLocation()
  if (timer?.state !== 'running' || pathname.includes('/timer/')) return null
  return (
    <Link className="btn btn-sm btn-primary" to={timerPath(job, timer.setup, timer.test)}>
      <Timer size={16} aria-hidden /> Timer running: {timer.name}
    </Link>
  )
}

/** Export offers the job as a file, with its photos and clips or without. */
function Export({ job }: { job: string }) {
  const file = `/api/jobs/${job}/export`
  return (
    <details className="dropdown dropdown-end max-sm:hidden">
      <summary className="btn btn-ghost btn-sm btn-square list-none" aria-label="Export the job" title="Export the job">
        <Download size={18} aria-hidden />
      </summary>
      <ul className="dropdown-content menu z-10 w-64 rounded-box border border-base-300 bg-base-100 p-2 shadow">
        <li>
          <a href={file} download>
            Export job file
          </a>
        </li>
        <li>
          <a href={`${file}?with=media`} download>
            Export with photos and clips
          </a>
        </li>
      </ul>
    </details>
  )
}

const bars = { here: 'border-accent text-base-content', done: 'border-base-content text-base-content', ahead: 'border-base-300 text-secondary' }

function Stations({ view }: { view: View }) {
  const { pathname } = useLocation()
  const nav = useRef<HTMLElement>(null)
  useEffect(() => {
    // On a phone the stations are wider than the screen: the open one is brought into sight.
    const open = nav.current?.querySelector<HTMLElement>('[aria-current=page]')
    if (nav.current && open) nav.current.scrollLeft = open.offsetLeft - nav.current.clientWidth / 2 + open.offsetWidth / 2
  }, [pathname])
  return (
    <nav ref={nav} aria-label="Stations of the job" className="relative overflow-x-auto px-2 pb-2">
      <ol className="flex min-w-max items-stretch gap-1">
        {stationsOf(view).map((s) => {
          const open = pathname === s.path
          return (
            <li key={s.key} className={`flex flex-1 ${s.key === 'swap' ? 'border-l-4 border-base-content pl-1' : ''}`}>
              <Link
                to={s.path}
                aria-current={open ? 'page' : undefined}
                className={`flex min-h-11 flex-1 items-center gap-1.5 border-b-4 px-3 py-1.5 whitespace-nowrap hover:bg-base-200 ${bars[s.state]} ${open ? 'bg-base-200 font-bold' : ''}`}
              >
                {s.state === 'done' && <Check size={16} className="shrink-0" aria-label="done" />}
                {s.label}
                {s.state === 'here' && <span className="sr-only">, current station</span>}
              </Link>
            </li>
          )
        })}
      </ol>
    </nav>
  )
}
