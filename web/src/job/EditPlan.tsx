import { useState } from 'react'
import type { Schemas, Test, View } from '../api/client'
import { useAddTest, useAnswers, useCatalogue, useChangeTest, useDropTemplate, useSaveTemplate, useTakeOutTest, useTemplates, useUseTemplate } from '../api/queries'
import { Field } from '../ui/Field'
import { needOf } from '../measure/words'
import { bytes, figure } from '../ui/format'
import { Query, Refusal } from '../ui/parts'
import { OwnTest } from './OwnTest'
import { Questions } from './Questions'

const groups: Record<string, string> = {
  starts: 'Starts',
  programs: 'Programs',
  games: 'Games',
  files: 'Files',
  drive: 'The drive',
  controls: 'Controls',
  notes: 'Notes',
}

/** EditPlan changes what is measured: another template, tests out and in, how often things are done, and keeps it for later. */
export function EditPlan({ view }: { view: View }) {
  const use = useUseTemplate(view.id)
  const add = useAddTest(view.id)
  const takeOut = useTakeOutTest(view.id)
  const change = useChangeTest(view.id)
  const answers = useAnswers(view.id)
  const templates = useTemplates()
  const catalogue = useCatalogue()
  const drop = useDropTemplate()
  const inPlan = view.job.tests.filter((t) => !t.retired)
  const [notice, setNotice] = useState('')
  const told = { onSuccess: (answer: unknown) => setNotice(noticeOf(answer)) }
  const error = use.error ?? add.error ?? takeOut.error ?? change.error ?? answers.error ?? drop.error
  return (
    <div className="sheet mb-4 flex flex-col gap-6 p-4 md:p-5">
      <Query of={templates} what="the templates">
        {(list) => (
          <section>
            <h3 className="font-bold">Begin from a template</h3>
            <p className="mb-2 text-sm text-secondary">Tests that have runs stay; the others are those of the template.</p>
            <div className="flex flex-wrap gap-1.5">
              {list.map((t) => (
                <span key={t.id} className="join">
                  <button
                    type="button"
                    title={t.about}
                    aria-pressed={view.job.plan.template === t.id}
                    className={`btn btn-sm join-item ${view.job.plan.template === t.id ? 'btn-primary' : ''}`}
                    onClick={() => use.mutate(t.id)}
                  >
                    {t.name}
                  </button>
                  {t.shop && (
                    <button type="button" className="btn btn-sm join-item" aria-label={`Forget the template ${t.name}`} onClick={() => drop.mutate(t.id)}>
                      ×
                    </button>
                  )}
                </span>
              ))}
            </div>
          </section>
        )}
      </Query>
      <section>
        <h3 className="font-bold">Tests</h3>
        <ul>
          {inPlan.map((t) => (
            <TestLine
              key={t.id}
              test={t}
              onChange={(c) => change.mutate({ test: t.id, change: c }, told)}
              onTakeOut={() => takeOut.mutate(t.id, told)}
            />
          ))}
        </ul>
      </section>
      {notice && (
        <p role="status" className="border-l-4 border-info pl-3 font-semibold">
          {notice}
        </p>
      )}
      {error && <Refusal error={error} />}
      <Query of={catalogue} what="the catalogue">
        {(entries) => (
          <section>
            <h3 className="mb-2 font-bold">Put in</h3>
            <dl className="grid grid-cols-[6rem_1fr] gap-x-3 gap-y-2">
              {Object.entries(groups).map(([id, label]) => {
                const free = entries.filter((e) => e.group === id && !inPlan.some((t) => t.id === e.test.id))
                if (free.length === 0) return null
                return (
                  <div key={id} className="contents">
                    <dt className="pt-1 text-sm text-secondary">{label}</dt>
                    <dd className="flex flex-wrap gap-1.5">
                      {free.map((e) => (
                        <button key={e.test.id} type="button" className="btn btn-sm" onClick={() => add.mutate({ id: e.test.id })}>
                          + {e.test.name}
                        </button>
                      ))}
                    </dd>
                  </div>
                )
              })}
            </dl>
          </section>
        )}
      </Query>
      <OwnTest onAdd={(t, done) => add.mutate(t, { onSuccess: done })} />
      {(view.job.plan.questions?.length ?? 0) > 0 && (
        <section>
          <h3 className="mb-2 font-bold">How the customer uses it</h3>
          <Questions
            questions={view.job.plan.questions!}
            answers={Object.fromEntries(view.job.plan.questions!.map((q) => [q.id, String(q.answer)]))}
            onChange={(id, text) => {
              const n = Number(text.replace(',', '.'))
              if (text.trim() !== '' && Number.isFinite(n)) answers.mutate({ [id]: n })
            }}
          />
        </section>
      )}
      <KeepAsTemplate job={view.id} />
    </div>
  )
}

/** noticeOf is what the bench wants known of a change of the plan. */
const noticeOf = (answer: unknown) => (answer as Schemas['Changed'] | undefined)?.notice ?? ''

function TestLine({ test, onChange, onTakeOut }: { test: Test; onChange: (c: Schemas['TestChange']) => void; onTakeOut: () => void }) {
  const number = (s: string) => Number(s.trim().replace(',', '.'))
  const commit = (s: string, before: number | undefined, put: (n: number) => void) => {
    const n = number(s)
    if (s.trim() !== '' && Number.isFinite(n) && n !== before) put(n)
  }
  return (
    <li className="flex flex-wrap items-end gap-3 border-b border-base-300 py-2">
      <span className="flex-1 basis-60 pb-1.5 font-semibold">{test.name}</span>
      <Field
        className="w-24"
        label="Runs"
        aria-label={`Runs of ${test.name}`}
        inputMode="numeric"
        defaultValue={test.wanted_runs ?? 3}
        onBlur={(e) => commit(e.target.value, test.wanted_runs, (n) => onChange({ wanted_runs: Math.round(n) }))}
      />
      {test.params?.streams && <StreamsFields streams={test.params.streams} onChange={(streams) => onChange({ streams })} />}
      {test.params ? (
        <Field
          className="w-32"
          label={test.params.fresh ? 'Writes' : test.params.existing ? 'Reads' : 'Test file'}
          aria-label={`Test file of ${test.name}`}
          unit="MiB"
          inputMode="numeric"
          title={bytes(test.params.span_bytes)}
          defaultValue={test.params.span_bytes / 2 ** 20}
          onBlur={(e) => commit(e.target.value, test.params!.span_bytes / 2 ** 20, (n) => onChange({ span_bytes: Math.round(n) * 2 ** 20 }))}
        />
      ) : (
        <Field
          className="w-32"
          label="Uses a week"
          aria-label={`Uses a week of ${test.name}`}
          inputMode="decimal"
          key={test.per_week}
          defaultValue={test.per_week ?? ''}
          onBlur={(e) => commit(e.target.value, test.per_week, (n) => onChange({ per_week: n }))}
        />
      )}
      <button type="button" className="btn btn-sm mb-0.5" aria-label={`Take out ${test.name}`} onClick={onTakeOut}>
        Take out
      </button>
    </li>
  )
}

/** StreamsFields say what must be kept up with: how many recordings, and what one needs. */
function StreamsFields({ streams, onChange }: { streams: Schemas['Streams']; onChange: (s: Schemas['Streams']) => void }) {
  const [text, setText] = useState({
    count: String(streams.count),
    mb_s: String(streams.mb_s ?? ''),
    width: String(streams.width ?? ''),
    height: String(streams.height ?? ''),
    frames_s: String(streams.frames_s ?? ''),
    bits: String(streams.bits ?? ''),
  })
  const number = (s: string) => (s.trim() === '' ? undefined : Number(s.trim().replace(',', '.')))
  const now: Schemas['Streams'] = {
    count: number(text.count) ?? 0,
    ...(number(text.mb_s) ? { mb_s: number(text.mb_s) } : { width: number(text.width), height: number(text.height), frames_s: number(text.frames_s), bits: number(text.bits) }),
  }
  const field = (key: keyof typeof text, label: string) => (
    <Field
      className="w-24"
      label={label}
      inputMode="decimal"
      value={text[key]}
      onChange={(e) => setText({ ...text, [key]: e.target.value })}
      onBlur={() => {
        if (Object.values(now).every((v) => v === undefined || Number.isFinite(v)) && JSON.stringify(now) !== JSON.stringify(streams)) onChange(now)
      }}
    />
  )
  return (
    <div className="flex basis-full flex-wrap items-end gap-3 pb-1">
      {field('count', 'Recordings')}
      {field('mb_s', 'MB/s each')}
      <span className="pb-2 text-secondary">or</span>
      {field('width', 'Width')}
      {field('height', 'Height')}
      {field('frames_s', 'Pictures/s')}
      {field('bits', 'Bits a pixel')}
      <span className="pb-2 font-semibold">need {figure(needOf(now), 'MB/s')}</span>
    </div>
  )
}

function KeepAsTemplate({ job }: { job: string }) {
  const save = useSaveTemplate()
  const [name, setName] = useState('')
  return (
    <form
      className="flex flex-wrap items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        save.mutate({ job, name }, { onSuccess: () => setName('') })
      }}
    >
      <Field className="w-72" label="Keep this plan as a template of the shop" placeholder="its name" value={name} onChange={(e) => setName(e.target.value)} />
      <button className="btn" disabled={save.isPending || name.trim() === ''}>
        Keep it
      </button>
      {save.isSuccess && (
        <p role="status" className="pb-2">
          Kept.
        </p>
      )}
      {save.error && <Refusal error={save.error} />}
    </form>
  )
}
