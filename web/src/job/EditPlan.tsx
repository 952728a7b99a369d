import { useState } from 'react'
import { FormProvider, useForm, useFormContext, useWatch, type UseFormRegisterReturn } from 'react-hook-form'
import type { Schemas, Test, View } from '../api/client'
import { useAddTest, useCatalogue, useDropTemplate, useSavePlan, useSaveTemplate, useTakeOutTest, useTemplates, useUseTemplate } from '../api/queries'
import { needOf } from '../measure/words'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { bytes, figure } from '../ui/format'
import { Query, Refusal } from '../ui/parts'
import { OwnTest } from './OwnTest'
import { changeOf, planForm, readNumber, type PlanForm } from './planForm'

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
  const templates = useTemplates()
  const catalogue = useCatalogue()
  const drop = useDropTemplate()
  const inPlan = view.job.tests.filter((t) => !t.retired)
  const [notice, setNotice] = useState('')
  const error = use.error ?? add.error ?? takeOut.error ?? drop.error
  return (
    <div className="sheet mb-4 flex flex-col gap-6 p-4 md:p-5">
      <Query of={templates} what="the templates">
        {(list) => (
          <section>
            <h3 className="font-bold">Start from a template</h3>
            <p className="mb-2 text-sm text-secondary">Tests that have runs stay; the others are those of the template.</p>
            <div className="flex flex-wrap gap-1.5">
              {list.map((t) => (
                <span key={t.id} className="join">
                  <CommandButton
                    of={use}
                    size="sm"
                    tone={view.job.plan.template === t.id ? 'primary' : 'plain'}
                    title={t.about}
                    aria-pressed={view.job.plan.template === t.id}
                    className="join-item"
                    onClick={() => use.run(t.id)}
                  >
                    {t.name}
                  </CommandButton>
                  {t.shop && (
                    <CommandButton of={drop} size="sm" className="join-item" aria-label={`Delete the template ${t.name}`} onClick={() => drop.run(t.id)}>
                      ×
                    </CommandButton>
                  )}
                </span>
              ))}
            </div>
          </section>
        )}
      </Query>
      <PlanFields view={view} onNotice={setNotice} onTakeOut={(id) => takeOut.run(id, (v) => setNotice(noticeOf(v)))} />
      {notice && (
        <p role="status" className="border-l-4 border-info pl-3 font-semibold">
          {notice}
        </p>
      )}
      {error && <Refusal error={error} />}
      <Query of={catalogue} what="the catalogue">
        {(entries) => (
          <section>
            <h3 className="mb-2 font-bold">Add a test</h3>
            <dl className="grid grid-cols-[6rem_1fr] gap-x-3 gap-y-2">
              {Object.entries(groups).map(([id, label]) => {
                const free = entries.filter((e) => e.group === id && !inPlan.some((t) => t.id === e.test.id))
                if (free.length === 0) return null
                return (
                  <div key={id} className="contents">
                    <dt className="pt-1 text-sm text-secondary">{label}</dt>
                    <dd className="flex flex-wrap gap-1.5">
                      {free.map((e) => (
                        <button key={e.test.id} type="button" className="btn btn-sm" onClick={() => add.run({ id: e.test.id })}>
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
      <OwnTest onAdd={(t, done) => add.run(t, done)} />
      <KeepAsTemplate job={view.id} />
    </div>
  )
}

/** noticeOf is what the bench wants known of a change of the plan. */
const noticeOf = (answer: unknown) => (answer as Schemas['Changed'] | undefined)?.notice ?? ''

/** PlanFields is the plan as one form: nothing is changed until it is saved, and then all at once. */
function PlanFields({ view, onNotice, onTakeOut }: { view: View; onNotice: (words: string) => void; onTakeOut: (id: string) => void }) {
  const save = useSavePlan(view.id)
  // What somebody else changes comes in; what was typed here stays.
  const form = useForm<PlanForm>({ values: planForm(view), resetOptions: { keepDirtyValues: true } })
  const { formState, handleSubmit, register } = form
  const questions = view.job.plan.questions ?? []
  const submit = (v: PlanForm) =>
    save.run(changeOf(view, v), (after) => {
      form.reset(planForm(after))
      onNotice(noticeOf(after))
    })
  return (
    <FormProvider {...form}>
      <form aria-label="Plan" noValidate className="flex flex-col gap-4" onSubmit={handleSubmit(submit)}>
        <section>
          <h3 className="font-bold">Tests</h3>
          <ul>
            {view.job.tests
              .filter((t) => !t.retired)
              .map((t) => (
                <TestLine key={t.id} test={t} onTakeOut={() => onTakeOut(t.id)} />
              ))}
          </ul>
        </section>
        {questions.length > 0 && (
          <section>
            <h3 className="mb-2 font-bold">How the customer uses it</h3>
            <div className="flex flex-wrap gap-x-6 gap-y-3">
              {questions.map((q) => (
                <Field key={q.id} className="w-72" label={q.text} inputMode="decimal" error={formState.errors.answers?.[q.id]?.message} {...register(`answers.${q.id}`, number(false))} />
              ))}
            </div>
          </section>
        )}
        {save.error && <Refusal error={save.error} />}
        <div className="flex flex-wrap items-center gap-3">
          <CommandButton of={save} type="submit" tone="primary" disabled={!formState.isDirty}>
            Save changes
          </CommandButton>
          {formState.isDirty && (
            <>
              <button type="button" className="btn" onClick={() => form.reset(planForm(view))}>
                Cancel
              </button>
              <span role="status" className="text-secondary">
                Not saved yet.
              </span>
            </>
          )}
        </div>
      </form>
    </FormProvider>
  )
}

/** number checks a field that takes a number; an optional one may be empty. */
const number = (optional: boolean) => ({
  validate: (s: string | undefined) => (optional && !s?.trim()) || Number.isFinite(readNumber(s ?? '')) || 'A number, such as 3 or 2.5.',
})

function TestLine({ test, onTakeOut }: { test: Test; onTakeOut: () => void }) {
  const { register, formState } = useFormContext<PlanForm>()
  const wrong = formState.errors.tests?.[test.id]
  const field = (label: string, of: string, put: UseFormRegisterReturn, error: string | undefined, more: { className: string; unit?: string; title?: string }) => (
    <Field {...more} label={label} aria-label={`${of} of ${test.name}`} inputMode="decimal" error={error} {...put} />
  )
  return (
    <li className="flex flex-wrap items-end gap-3 border-b border-base-300 py-2">
      <span className="flex-1 basis-60 pb-1.5 font-semibold">{test.name}</span>
      {field('Runs', 'Runs', register(`tests.${test.id}.runs`, number(false)), wrong?.runs?.message, { className: 'w-24' })}
      {test.params?.streams && <StreamsFields test={test} />}
      {test.params
        ? field(test.params.fresh ? 'Writes' : test.params.existing ? 'Reads' : 'Test file', 'Test file', register(`tests.${test.id}.mib`, number(false)), wrong?.mib?.message, {
            className: 'w-32',
            unit: 'MiB',
            title: bytes(test.params.span_bytes),
          })
        : field('Uses a week', 'Uses a week', register(`tests.${test.id}.uses`, number(true)), wrong?.uses?.message, { className: 'w-32' })}
      <button type="button" className="btn btn-sm mb-0.5" aria-label={`Remove ${test.name}`} onClick={onTakeOut}>
        Remove
      </button>
    </li>
  )
}

const streamFields = [
  ['count', 'Recordings'],
  ['mb_s', 'MB/s each'],
  ['width', 'Width'],
  ['height', 'Height'],
  ['frames_s', 'Frames/s'],
  ['bits', 'Bits a pixel'],
] as const

/** StreamsFields say what must be kept up with: how many recordings, and what one needs. */
function StreamsFields({ test }: { test: Test }) {
  const { register, control } = useFormContext<PlanForm>()
  const now = useWatch({ control, name: `tests.${test.id}.streams` })
  const n = (s: string | undefined) => readNumber(s ?? '') || undefined
  const need = now ? needOf({ count: n(now.count) ?? 0, ...(n(now.mb_s) ? { mb_s: n(now.mb_s) } : { width: n(now.width), height: n(now.height), frames_s: n(now.frames_s), bits: n(now.bits) }) }) : 0
  return (
    <div className="flex basis-full flex-wrap items-end gap-3 pb-1">
      {streamFields.map(([key, label]) => (
        <Field key={key} className="w-24" label={label} inputMode="decimal" {...register(`tests.${test.id}.streams.${key}`, number(true))} />
      ))}
      <span className="pb-2 font-semibold">need {figure(need, 'MB/s')}</span>
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
        save.run({ job, name }, () => setName(''))
      }}
    >
      <Field className="w-72" label="Save this plan as a template of the shop" placeholder="name" value={name} onChange={(e) => setName(e.target.value)} />
      <CommandButton of={save} type="submit" disabled={name.trim() === ''}>
        Save template
      </CommandButton>
      {save.isSuccess && (
        <p role="status" className="pb-2">
          Saved.
        </p>
      )}
      {save.error && <Refusal error={save.error} />}
    </form>
  )
}
