import { Pencil } from 'lucide-react'
import { useState, type ReactNode } from 'react'
import { useLocation } from 'react-router'
import type { View } from '../api/client'
import { bytes, day } from '../ui/format'
import { SideMark, Simulated } from '../ui/parts'
import { EditDocket } from './EditDocket'
import { Track, whereItIs } from './Track'
import { driveName, driveOf, setupAs } from './view'

/** Docket is the head of a job, like the card that travels with a machine through a workshop. */
export function Docket({ view }: { view: View }) {
  const [editing, setEditing] = useState(false)
  const { hash } = useLocation()
  // The next step that asks for a drive leads here.
  const [asked, setAsked] = useState('')
  if (hash !== asked) {
    setAsked(hash)
    if (hash === '#drives') setEditing(true)
  }
  const { job } = view
  const computer = job.computers[0]
  const name = job.job.customer?.name
  const machine = [computer?.maker, computer?.model].filter(Boolean).join(' ')
  const details = [computer?.processor, computer?.memory_bytes ? bytes(computer.memory_bytes) : '', computer?.system].filter(Boolean)
  return (
    <section id="drives" aria-label="Docket" className="sheet">
      <div className="flex flex-wrap items-start gap-x-8 gap-y-3 p-4 md:p-5 max-sm:relative">
        <div className="min-w-0 flex-1 basis-72">
          <p className="flex flex-wrap items-center gap-3 text-secondary">
            <span>{job.job.number}</span>
            {job.job.opened && <span className="max-sm:hidden">{day(job.job.opened)}</span>}
            {view.simulated && <Simulated />}
          </p>
          <h1 className="text-3xl leading-tight font-bold tracking-tight break-words">{name || machine || 'No name yet'}</h1>
          {job.job.reason && <p className="mt-1 text-lg break-words">“{job.job.reason}”</p>}
          {job.job.customer?.contact && <p className="text-secondary">{job.job.customer.contact}</p>}
        </div>
        <dl className="grid flex-1 basis-80 grid-cols-[auto_1fr] gap-x-4 gap-y-1">
          <Fact label="Computer">
            {machine || 'not noted yet'}
            {details.length > 0 && <span className="text-secondary max-sm:hidden"> · {details.join(' · ')}</span>}
          </Fact>
          <Fact label={<Side side="then">Then</Side>}>
            <DriveLine view={view} role="then" />
          </Fact>
          <Fact label={<Side side="now">Now</Side>}>
            <DriveLine view={view} role="now" />
          </Fact>
        </dl>
        <button type="button" className="btn btn-ghost btn-sm max-sm:absolute max-sm:top-2 max-sm:right-2" aria-expanded={editing} onClick={() => setEditing(!editing)}>
          <Pencil size={16} aria-hidden /> Change
        </button>
      </div>
      {editing && <EditDocket view={view} onDone={() => setEditing(false)} />}
      <div className="px-4 pb-4 md:px-5">
        <div className="max-sm:hidden">
          <Track steps={view.track} />
        </div>
        <div className="flex items-center justify-between gap-3 sm:hidden">
          <Track steps={view.track} small />
          <span className="font-semibold">{whereItIs(view.track)}</span>
        </div>
      </div>
    </section>
  )
}

function Fact({ label, children }: { label: ReactNode; children: ReactNode }) {
  return (
    <>
      <dt className="text-secondary">{label}</dt>
      <dd className="min-w-0 break-words">{children}</dd>
    </>
  )
}

function Side({ side, children }: { side: 'then' | 'now'; children: ReactNode }) {
  return (
    <span className={`flex items-center gap-1.5 font-bold ${side === 'then' ? 'text-then' : 'text-now'}`}>
      <SideMark side={side} /> {children}
    </span>
  )
}

function DriveLine({ view, role }: { view: View; role: 'then' | 'now' }) {
  const d = driveOf(view, setupAs(view, role))
  if (!d) return <span className="text-secondary">not chosen yet</span>
  const more = [
    [d.maker, d.model].filter(Boolean).join(' '),
    d.interface,
    d.rated?.read_mb_s ? `rated ${d.rated.read_mb_s} MB/s` : '',
    d.price ? `${d.price.amount} ${d.price.currency}` : '',
  ].filter(Boolean)
  return (
    <>
      <strong className="font-semibold">{driveName(d)}</strong>
      {more.length > 0 && <span className="text-secondary max-sm:hidden"> · {more.join(' · ')}</span>}
    </>
  )
}
