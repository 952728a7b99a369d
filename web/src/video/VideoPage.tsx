import { ArrowLeft, Film, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Setup, Test, View } from '../api/client'
import { useClips, useDropClip, useKeepClip, useUpload } from './queries'
import { lastSitting, runsOf, setupName, setupOf, simulatedOn, testOf } from '../job/view'
import { useView } from '../job/JobFrame'
import { timerPath } from '../job/paths'
import { CommandButton } from '../ui/CommandButton'
import { bytes, day, figure, giveOrTake, isoDay } from '../ui/format'
import { Heading } from '../ui/Heading'
import { Empty, Query, Refusal, SideMark, Simulated } from '../ui/parts'
import { Marker } from './Marker'
import type { Clip } from './upload'

/** VideoPage times a test from a clip: the clips of the job, and the one that is marked. */
export function VideoPage() {
  const view = useView()
  const { setup, test } = useParams()
  const s = setupOf(view, setup!)
  const t = testOf(view, test!)
  return s && t ? <OnTest view={view} setup={s} test={t} /> : <Empty title="This job has no such test or setup." />
}

function OnTest({ view, setup, test }: { view: View; setup: Setup; test: Test }) {
  const clips = useClips(view.id)
  const [picked, setPicked] = useState<string>()
  const runs = runsOf(view, test.id, setup.id).filter((r) => r.method === 'video')
  const sitting = lastSitting(view, setup.id)
  const here = clips.data?.clips.filter((c) => !c.gone && !c.missing && c.received === c.bytes) ?? []
  const marked = runs.at(-1)?.video?.clip
  const clip = here.find((c) => c.id === (picked ?? marked)) ?? here.at(-1)
  return (
    <div className="flex flex-col gap-4">
      <div>
        <Link to={timerPath(view.id, setup.id, test.id)} className="inline-flex items-center gap-1 text-secondary hover:text-base-content">
          <ArrowLeft size={16} aria-hidden /> Timer
        </Link>
        <Heading title={`${test.name}, ${view.job.job.number}`} className="flex flex-wrap items-center gap-x-3 text-2xl font-bold tracking-tight">
          <SideMark side={setup.role === 'then' ? 'then' : 'now'} size={20} />
          <span className={setup.role === 'then' ? 'text-then' : 'text-now'}>{setupName(setup)}:</span> {test.name}, from a video
          {simulatedOn(view, setup) && <Simulated small />}
        </Heading>
      </div>
      {!sitting ? (
        <Empty title="Enter the test conditions first.">
          <Link className="btn btn-primary" to={timerPath(view.id, setup.id, test.id)}>
            To the timer
          </Link>
        </Empty>
      ) : (
        clip && <Marker key={clip.id} view={view} setup={setup} test={test} sitting={sitting.id} clip={clip} />
      )}
      {runs.length > 0 && (
        <p>
          Marked so far:{' '}
          {runs.map((r, i) => (
            <span key={r.id}>
              {i > 0 && ' · '}
              <strong>{figure(r.value, 's')}</strong> {giveOrTake(r.u ?? 0, 's', r.value)} on {r.video?.name}
            </span>
          ))}
        </p>
      )}
      <Query of={clips} what="the clips">
        {(c) => (
          <section>
            <h2 className="flex flex-wrap items-baseline gap-x-3 text-xl font-bold">
              Clips of this job
              <span className="text-base font-normal text-secondary">
                take {bytes(c.job_bytes)}, all clips of the shop {bytes(c.shop_bytes)}
              </span>
            </h2>
            <Upload job={view.id} onDone={setPicked} />
            <ul className="mt-2">
              {c.clips.map((k) => (
                <Line key={k.id} job={view.id} clip={k} open={k.id === clip?.id} onPick={() => setPicked(k.id)} />
              ))}
            </ul>
          </section>
        )}
      </Query>
    </div>
  )
}

function Upload({ job, onDone }: { job: string; onDone: (id: string) => void }) {
  const upload = useUpload(job)
  const [share, setShare] = useState<number>()
  return (
    <div className="mt-2 flex flex-col gap-2">
      <label className="btn btn-sm self-start">
        <Film size={16} aria-hidden /> {upload.isPending ? `Uploading: ${Math.round((share ?? 0) * 100)} %` : 'Add video'}
        <input
          type="file"
          accept="video/mp4,video/webm,video/quicktime,.mov,.mp4,.m4v,.webm"
          className="sr-only"
          aria-label="Clip"
          onChange={(e) => {
            const file = e.target.files?.[0]
            e.target.value = ''
            if (file) upload.run({ file, tell: (n) => setShare(n < 1 ? n : undefined) }, (c) => onDone(c.id))
          }}
        />
      </label>
      <p className="text-sm text-secondary">MP4, WebM or MOV, up to 2 GB.</p>
      {upload.error && (
        <>
          <Refusal error={upload.error} />
          <p className="text-secondary">Choose the same file again to continue the upload.</p>
        </>
      )}
    </div>
  )
}

/** Line is one clip: pick it, say until when it is kept, delete it. */
function Line({ job, clip, open, onPick }: { job: string; clip: Clip; open: boolean; onPick: () => void }) {
  const keep = useKeepClip(job)
  const drop = useDropClip(job)
  const [asked, setAsked] = useState(false)
  const whole = clip.received === clip.bytes
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 py-2">
      <span className="flex-1 basis-60">
        <strong>{clip.name}</strong> <span className="text-secondary">{clip.gone ? 'deleted; its stills are kept' : clip.missing ? 'its file isn’t on this bench; upload the same clip again' : whole ? bytes(clip.bytes) : `${bytes(clip.received)} of ${bytes(clip.bytes)} arrived`}</span>
      </span>
      {!clip.gone && (
        <>
          {whole && !open && (
            <button type="button" className="btn btn-sm" onClick={onPick}>
              Open
            </button>
          )}
          <label className="flex items-center gap-2 text-sm">
            keep until
            <input
              type="date"
              className="input input-sm w-40"
              aria-label={`Keep ${clip.name} until`}
              title={clip.keep_until ? day(clip.keep_until) : 'for good'}
              value={clip.keep_until ? isoDay(clip.keep_until) : ''}
              onChange={(e) => keep.run({ clip: clip.id, until: e.target.value ? new Date(e.target.value + 'T23:59:59').toISOString() : null })}
            />
          </label>
          {asked ? (
            <>
              <CommandButton of={drop} size="sm" tone="error" onClick={() => drop.run(clip.id)}>
                Delete for good
              </CommandButton>
              <button type="button" className="btn btn-sm" onClick={() => setAsked(false)}>
                No
              </button>
            </>
          ) : (
            <button type="button" className="btn btn-sm btn-square" aria-label={`Delete ${clip.name}`} onClick={() => setAsked(true)}>
              <Trash2 size={16} aria-hidden />
            </button>
          )}
          {drop.error && <Refusal error={drop.error} />}
          {keep.error && <Refusal error={keep.error} />}
        </>
      )}
    </li>
  )
}
