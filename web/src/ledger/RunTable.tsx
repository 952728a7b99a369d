import { useState } from 'react'
import type { Run, Test, View } from '../api/client'
import { useSetAside, useTakeBack } from '../side/queries'
import { Link } from 'react-router'
import { videoPath } from '../job/paths'
import { reasonAside } from '../job/view'
import { bytes, figure, giveOrTake, time } from '../ui/format'
import { OneField } from '../ui/OneField'
import { Refusal, SideMark } from '../ui/parts'
import { Pictures } from '../ui/Pictures'
import { useWindowed } from '../ui/windowed'

const methods: Record<string, string> = {
  automatic: 'automatic',
  stopwatch: 'by hand',
  'finish-line': 'finish line',
  video: 'video',
  typed: 'entered',
}

/** RunTable lists the runs of one side; each can be set aside, with a reason, and undone. */
export function RunTable({ view, test, runs, side, title }: { view: View; test: Test; runs: Run[]; side: 'then' | 'now'; title: string }) {
  const takeBack = useTakeBack(view.id)
  const [asking, setAsking] = useState<string>()
  const { list, entries, before, after, measure } = useWindowed<HTMLTableSectionElement>(runs.length, 34, (i) => runs[i]!.id)
  if (runs.length === 0) {
    return (
      <p className="text-secondary">
        <SideMark side={side} /> {title}: no runs yet.
      </p>
    )
  }
  return (
    <div>
      <table className="w-full text-sm" aria-rowcount={runs.length}>
        <caption className={`pb-1 text-left font-bold ${side === 'then' ? 'text-then' : 'text-now'}`}>
          <SideMark side={side} /> {title}
        </caption>
        <tbody ref={list}>
          <Space height={before} />
          {entries.map((i) => {
            const r = runs[i]!
            const reason = reasonAside(r)
            return (
              <tr key={r.id} ref={measure} data-index={i} className="border-t border-base-300 align-top">
                <td className={`py-1.5 pr-3 text-base font-semibold whitespace-nowrap ${reason ? 'text-secondary line-through' : ''}`}>
                  {r.bound} {figure(r.value, test.unit)}
                </td>
                <td className="py-1.5 pr-3">
                  {methods[r.method] ?? r.method}
                  {r.u ? ` ${giveOrTake(r.u, test.unit, r.value)}` : ''}
                  {r.at && <span className="text-secondary"> · {time(r.at)}</span>}
                  <Phases test={test} run={r} />
                  {r.video && <Evidence view={view} test={test} run={r} />}
                  {reason && <span className="block text-secondary">{r.repeat ? capital(reason) : `Set aside: ${reason}`}</span>}
                  {Boolean(saidOf(r, test.unit)) && <span className="block text-secondary">{saidOf(r, test.unit)}</span>}
                  {r.note && <span className="block text-secondary">{r.note}</span>}
                  {(r.method === 'typed' || r.photos?.length) && <Pictures job={view.id} of={{ run: r.id }} photos={r.photos} label={figure(r.value, test.unit)} />}
                  {asking === r.id && <Why view={view} run={r.id} onDone={() => setAsking(undefined)} />}
                </td>
                <td className="py-1.5 text-right whitespace-nowrap">
                  {r.repeat ? null : reason ? (
                    <button type="button" className="link" data-run={r.id} aria-label={`Restore ${figure(r.value, test.unit)}`} onClick={() => takeBack.run(r.id)}>
                      Restore
                    </button>
                  ) : (
                    <button
                      type="button"
                      className="link"
                      data-run={r.id}
                      aria-label={`Set aside ${figure(r.value, test.unit)}`}
                      aria-expanded={asking === r.id}
                      onClick={() => setAsking(asking === r.id ? undefined : r.id)}
                    >
                      Set aside
                    </button>
                  )}
                </td>
              </tr>
            )
          })}
          <Space height={after} />
        </tbody>
      </table>
      {takeBack.error && <Refusal error={takeBack.error} />}
    </div>
  )
}

/** saidOf says between what a figure lay, which program showed it, and how much was copied. */
const saidOf = (r: Run, unit: string) =>
  [
    r.range && `between ${figure(r.range[0]!, unit)} and ${figure(r.range[1]!, unit)}`,
    r.read_in && `read in ${[r.read_in.program, r.read_in.version].filter(Boolean).join(' ') || 'another program'}${r.read_in.file_bytes ? `, test file of ${bytes(r.read_in.file_bytes)}` : ''}`,
    r.method !== 'automatic' && r.bytes && `${bytes(r.bytes)}${r.files ? ` in ${r.files.toLocaleString('en')} files` : ''}`,
  ]
    .filter(Boolean)
    .join('; ')

/** Space is the height of runs that are out of sight and not drawn. */
const Space = ({ height }: { height: number }) =>
  height > 0 && (
    <tr aria-hidden>
      <td colSpan={3} style={{ height }} />
    </tr>
  )

const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1)

/** Evidence is where a run was marked on a clip, with the stills. */
function Evidence({ view, test, run }: { view: View; test: Test; run: Run }) {
  const setup = view.job.sittings.find((s) => s.id === run.sitting)?.setup ?? ''
  return (
    <span className="mt-1 flex flex-wrap items-center gap-2">
      <Link className="link" to={videoPath(view.id, setup, test.id)}>
        {run.video!.name}
      </Link>
      {run.video!.marks.map((m) => (
        <span key={m.at_s} className="text-secondary">
          {m.still && <img src={`/api/jobs/${view.id}/photos/${m.still}?size=thumbnail`} loading="lazy" alt={`Still at ${m.at_s.toFixed(2)} s`} className="inline h-8 rounded-sm" />} {m.at_s.toFixed(2)} s
        </span>
      ))}
    </span>
  )
}

function Phases({ test, run }: { test: Test; run: Run }) {
  if (!test.phases?.length || !run.phases) return null
  const parts = test.phases
    .filter((p) => run.phases![p.id] !== undefined)
    .map((p) => `${p.name} ${run.phases![p.id]!.toFixed(1)} s${p.counts === false ? ' (not counted)' : ''}`)
  return <span className="block text-secondary">{parts.join(', ')}</span>
}

function Why({ view, run, onDone }: { view: View; run: string; onDone: () => void }) {
  const setAside = useSetAside(view.id)
  return (
    <OneField
      className="mt-1"
      label="Why it is set aside"
      placeholder="Why?"
      verb="Set aside"
      focused
      of={setAside}
      error={setAside.error}
      onDone={(reason) => setAside.run({ run, reason }, onDone)}
      onLeave={onDone}
    />
  )
}
