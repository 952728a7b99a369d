import { useCallback, useMemo, useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import type { Setup, Test, View } from '../api/client'
import { useMarkRun, useStill } from './queries'
import { runsOf } from '../job/view'
import { before, WhatItWas, type Was } from '../timer/WhatItWas'
import { figure, giveOrTake } from '../ui/format'
import { Empty, Refusal } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { technician } from '../ui/technician'
import { Controls } from './Controls'
import { marksOf, valueOf, type Mark } from './marks'
import type { Clip } from './upload'
import { usePlayer } from './usePlayer'

/** Marker steps over a clip frame by frame and marks the start, the splits and the end of a run. */
export function Marker({ view, setup, test, sitting, clip }: { view: View; setup: Setup; test: Test; sitting: string; clip: Clip }) {
  const player = usePlayer()
  const { video, at, setAt, alone, move, by, play } = player
  const [zoom, setZoom] = useState(1)
  const names = useMemo(() => marksOf(test), [test])
  const [marks, setMarks] = useState<Mark[]>(() => {
    // The marks of the last run on this clip are shown again: anyone can look at the evidence.
    const last = runsOf(view, test.id, setup.id).filter((r) => r.video?.clip === clip.id).at(-1)
    return last?.video?.marks.map((m) => ({ at: m.at_s, frame: m.frame_s, still: m.still ?? '' })) ?? []
  })
  const form = useForm<Was>({ defaultValues: before(view, test, setup) })
  const was = useWatch({ control: form.control })
  const still = useStill(view.id)
  const keep = useMarkRun(view.id)
  // What was kept is checked; a further run begins with new marks.
  const [kept, setKept] = useState(marks.length > 0)
  const done = marks.length === names.length
  const value = done ? valueOf(test, marks) : undefined

  const { runAsync: keepStill } = still
  const mark = useCallback(() => {
    if (marks.length >= names.length) return
    alone(async (v, f) => {
      const shown = await f.lookAt()
      setAt(shown.at)
      const picture = await pictureOf(v)
      const id = picture ? (await keepStill(picture)).id : ''
      setMarks((list) => (list.length < names.length ? [...list, { at: shown.at, frame: shown.frame, still: id }] : list))
    })
  }, [marks.length, names.length, keepStill, alone, setAt])
  const nextMark = useCallback(() => {
    const ahead = marks.filter((m) => m.at > (at ?? 0) + 1e-3).toSorted((a, b) => a.at - b.at)[0] ?? marks[0]
    if (ahead) move((f) => f.show(ahead.at))
  }, [marks, at, move])
  const back = useCallback(() => setMarks((list) => list.slice(0, -1)), [])
  const another = useCallback(() => {
    setMarks([])
    setKept(false)
  }, [])
  const { run: keepRun } = keep
  const store = useCallback(
    () =>
      keepRun(
        { clip: clip.id, ...was, test: test.id, sitting, by: technician.get(), marks: marks.map((m) => ({ at_s: m.at, frame_s: m.frame, ...(m.still ? { still: m.still } : {}) })) },
        () => setKept(true),
      ),
    [keepRun, clip.id, was, test.id, sitting, marks],
  )
  useShortcuts(
    useMemo(
      () => [
        { key: 'ArrowRight', label: 'Next frame', run: () => move((f) => f.next()) },
        { key: 'ArrowLeft', label: 'Previous frame', run: () => move((f) => f.previous()) },
        { key: '.', label: 'A tenth on', run: () => by(0.1) },
        { key: ',', label: 'A tenth back', run: () => by(-0.1) },
        { key: 'PageDown', label: 'A second on', run: () => by(1) },
        { key: 'PageUp', label: 'A second back', run: () => by(-1) },
        { key: 'p', label: 'Play or pause', run: play },
        { key: 'm', label: 'Mark this frame', run: mark },
        { key: 'n', label: 'To the next mark', run: nextMark },
        ...(kept ? [{ key: 'a', label: 'Mark another run', run: another }] : [{ key: 'u', label: 'Undo last mark', run: back }]),
        { key: 'z', label: 'Zoom', run: () => setZoom((z) => (z === 1 ? 2.5 : 1)) },
        ...(done && !kept ? [{ key: 'k', label: 'Keep the run', run: store }] : []),
      ],
      [move, by, play, mark, nextMark, back, another, done, kept, store],
    ),
  )
  const error = keep.error ?? still.error
  if (player.unplayable)
    return (
      <Empty title={`This browser does not play ${clip.name}.`}>
        <p className="max-w-prose">
          The clip is kept. Open this page in another browser, or add it again in a format that every browser plays: MP4 with H.264. Phones have a setting for it; it is
          often called “most compatible”.
        </p>
      </Empty>
    )
  return (
    <section aria-label="Marking" className="grid gap-4 md:grid-cols-[minmax(0,1fr)_19rem]">
      <div>
        <div className="flex max-h-[58vh] [align-items:safe_center] [justify-content:safe_center] overflow-auto rounded-box bg-neutral">
          <video
            ref={video}
            src={`/api/jobs/${view.id}/clips/${clip.id}/file`}
            preload="auto"
            muted
            playsInline
            // It grows in its frame rather than over its edges, which cannot be scrolled to.
            className="max-w-none flex-none object-contain"
            style={{ width: `${zoom * 100}%` }}
          />
        </div>
        <Controls player={player} zoomed={zoom !== 1} onZoom={() => setZoom(zoom === 1 ? 2.5 : 1)} />
      </div>
      <div className="flex flex-col gap-3">
        <ol className="flex flex-col gap-1">
          {names.map((name, i) => {
            const m = marks[i]
            return (
              <li key={name} className={`flex items-center gap-3 border-l-4 py-1 pl-3 ${i === marks.length ? 'border-base-content' : m ? 'border-now' : 'border-base-300'}`}>
                <span className="flex-1">
                  {name}
                  {m && (
                    <button type="button" className="link block font-semibold" onClick={() => move((f) => f.show(m.at))}>
                      {m.at.toFixed(3)} s
                    </button>
                  )}
                </span>
                {m?.still && <img src={`/api/jobs/${view.id}/photos/${m.still}`} alt={`Still: ${name}`} className="h-12 rounded-sm border border-base-300" />}
              </li>
            )
          })}
        </ol>
        {!done && (
          <button type="button" className="btn btn-primary btn-lg" onClick={mark}>
            Mark: {names[marks.length]} <kbd className="key">m</kbd>
          </button>
        )}
        {value && (
          <p className="text-lg">
            <strong className="block text-4xl">{figure(value.value, 's')}</strong>
            {giveOrTake(value.u, 's', value.value)}, from the length of the frames
          </p>
        )}
        {done && kept && (
          <>
            <p className="font-semibold">These marks belong to a kept run.</p>
            <button type="button" className="btn btn-lg" onClick={another}>
              Mark another run <kbd className="key">a</kbd>
            </button>
          </>
        )}
        {done && !kept && (
          <>
            <WhatItWas view={view} setup={setup} test={test} form={form} />
            <button type="button" className="btn btn-primary btn-lg" disabled={keep.isPending} onClick={store}>
              Keep the run <kbd className="key">k</kbd>
            </button>
          </>
        )}
        {marks.length > 0 && !kept && (
          <button type="button" className="btn btn-sm" onClick={back}>
            Undo last mark <kbd className="key">u</kbd>
          </button>
        )}
        {error && <Refusal error={error} />}
      </div>
    </section>
  )
}

/** pictureOf is the frame that is shown, as a JPEG; undefined where the browser gives none. */
async function pictureOf(v: HTMLVideoElement): Promise<Blob | undefined> {
  const canvas = document.createElement('canvas')
  canvas.width = v.videoWidth
  canvas.height = v.videoHeight
  const g = canvas.getContext('2d')
  if (!g || v.videoWidth === 0) return undefined
  g.drawImage(v, 0, 0)
  return new Promise((done) => canvas.toBlob((b) => done(b ?? undefined), 'image/jpeg', 0.85))
}
