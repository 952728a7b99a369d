import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { Link, useSearchParams } from 'react-router'
import { z } from 'zod'
import type { Probe, Refused, Setup, View } from '../api/client'
import { useAmendJob } from '../intake/queries'
import { useStartMeasuring } from './queries'
import { sidePath } from '../job/paths'
import { coverOf, itself, missingRuns } from '../job/view'
import { OnProbe } from '../probe/OnProbe'
import { useLook } from '../probe/probe'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { bytes, minutes } from '../ui/format'
import { Refusal } from '../ui/parts'
import { Folder } from './Folder'
import { Size } from './Size'
import { plain, roundOf } from './words'

/** mostRuns is how many runs of a test one round makes at most. */
const mostRuns = 20

/** wholeOf reads how many runs were asked for; 0: as many as are missing. */
const wholeOf = (text: string) => (/^\d+$/.test(text.trim()) ? Number(text) : 0)

const schema = z.object({
  tests: z.array(z.string()).min(1),
  runs: z.string().refine((t) => t.trim() === '' || (wholeOf(t) >= 1 && wholeOf(t) <= mostRuns), `Between 1 and ${mostRuns}.`),
  folder: z.string().trim(),
  mount: z.string(),
})

/** StartForm says what a round will do, how long it takes and how much it writes, and begins it. */
export function StartForm({
  view,
  setup,
  sitting,
  simulated,
  probe,
  dir,
  onDir,
}: {
  view: View
  setup: Setup
  sitting: string
  simulated: boolean
  /** probe: measured on its computer. */
  probe?: Probe
  dir: string
  onDir: (dir: string) => void
}) {
  const start = useStartMeasuring(view.id)
  const amend = useAmendJob(view.id)
  const tests = view.job.tests.filter((t) => !t.retired && itself(view, t))
  const allDone = tests.every((t) => missingRuns(view, t, setup.id) === 0)
  // A row of the station, or a finding, asks for its own tests alone, and may say how often.
  const [address] = useSearchParams()
  const asked = tests.filter((t) => address.getAll('test').includes(t.id))
  const often = wholeOf(address.get('runs') ?? '')
  const { register, handleSubmit, control, setValue, formState } = useForm({
    resolver: zodResolver(schema),
    mode: 'onChange',
    defaultValues: {
      tests: tests.filter((t) => (asked.length > 0 ? asked.includes(t) : allDone || missingRuns(view, t, setup.id) > 0)).map((t) => t.id),
      runs: often > 0 ? String(Math.min(often, mostRuns)) : allDone || (asked.length > 0 && asked.every((t) => missingRuns(view, t, setup.id) === 0)) ? '1' : '',
      folder: localStorage.getItem('read-folder') ?? '',
      mount: '',
    },
  })
  const form = useWatch({ control })
  const picked = new Set(form.tests)
  const count = wholeOf(form.runs ?? '')
  const mount = form.mount ?? ''
  const round = roundOf(
    tests
      .filter((t) => picked.has(t.id))
      .map((t) => ({ test: t, cover: coverOf(view, t.id, setup.id)!, runs: count || missingRuns(view, t, setup.id) })),
  )
  const here = !simulated && !probe
  const readsFolder = !simulated && !probe?.simulated && tests.some((t) => picked.has(t.id) && t.file_work?.op === 'read')
  const refused = start.error as Refused | null
  const [noFolder, setNoFolder] = useState(false)
  const seen = useLook(view.id, probe)
  const doubts = seen.data?.doubts ?? []
  const begin = (patient: boolean) =>
    handleSubmit((f) => {
      setNoFolder(here && dir.trim() === '')
      if (here && dir.trim() === '') return
      start.run({
        sitting,
        dir: here ? dir : f.mount,
        folder: readsFolder ? f.folder : '',
        tests: f.tests,
        runs: wholeOf(f.runs),
        ...(probe && { probe: probe.id, patient }),
      })
    })
  const begun = tests.some((t) => view.job.runs.some((r) => r.test === t.id))

  if (tests.length === 0) return <p>This job’s plan has no unattended tests.</p>
  return (
    <form
      className="flex flex-col gap-5"
      onSubmit={(e) => void begin(false)(e)}
    >
      {allDone && (
        <p className="text-lg">
          All unattended tests have their runs.{' '}
          <Link className="link font-semibold" to={sidePath(view.id, setup)}>
            Back to the job
          </Link>{' '}
          – or measure once more:
        </p>
      )}
      <ul className="flex flex-col">
        {tests.map((t) => {
          const missing = missingRuns(view, t, setup.id)
          return (
            <li key={t.id} className="border-b border-base-300">
              <label className="flex cursor-pointer items-center gap-3 py-3">
                <input type="checkbox" className="checkbox" value={t.id} {...register('tests')} />
                <span className="flex-1">
                  <span className="block text-lg font-semibold">{t.name}</span>
                  <span className="text-secondary">{plain(t)}</span>
                </span>
                <span className="text-right">{missing === 0 ? 'done' : `${missing} ${missing === 1 ? 'run' : 'runs'} missing`}</span>
              </label>
            </li>
          )
        })}
      </ul>
      {probe && <OnProbe probe={probe} setup={setup.id} mount={mount} onMount={(m) => setValue('mount', m)} seen={seen} />}
      {here && <Folder dir={dir} onDir={onDir} error={noFolder ? 'Choose a folder on the drive.' : refused?.refusal.fields?.dir ? ' ' : undefined} />}
      {readsFolder && (
        <Field
          className="max-w-xl"
          label="Folder to read: a game’s or program’s folder, the same both times"
          placeholder="a folder, from the root on"
          spellCheck={false}
          error={refused?.refusal.fields?.folder}
          {...register('folder', { onChange: (e: { target: { value: string } }) => localStorage.setItem('read-folder', e.target.value) })}
        />
      )}
      <div className="flex flex-wrap items-end gap-4">
        <Field
          className="w-52"
          label="Runs of each"
          placeholder="as many as missing"
          inputMode="numeric"
          error={formState.errors.runs?.message}
          {...register('runs')}
        />
        {!begun && <Size view={view} amend={amend} />}
      </div>
      {amend.error && <Refusal error={amend.error} />}
      <p className="text-lg">
        At most <strong>{minutes(round.seconds / 60)}</strong>, unattended.{' '}
        {round.span > 0 && `A test file of ${bytes(round.span)} is made and removed again. `}
        {round.writes > 0 ? (
          <>
            At most <strong>{bytes(round.writes)}</strong> are written in all.
          </>
        ) : (
          <strong>Nothing is written.</strong>
        )}
      </p>
      {refused && <Refusal error={refused} />}
      <div className="flex flex-wrap gap-3">
        {doubts.length > 0 && (
          <CommandButton of={start} tone="primary" size="lg" disabled={picked.size === 0} onClick={() => void begin(true)()}>
            Wait, then start
          </CommandButton>
        )}
        <button className={`btn btn-lg ${doubts.length > 0 ? '' : 'btn-primary'}`} disabled={start.isPending || picked.size === 0 || seen.isLoading}>
          {start.isPending ? 'Starting …' : doubts.length > 0 ? 'Measure anyway' : 'Measure'}
        </button>
      </div>
    </form>
  )
}
