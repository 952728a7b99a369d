import { zodResolver } from '@hookform/resolvers/zod'
import { ArrowDown, ArrowUp, GripVertical, Star, X } from 'lucide-react'
import { useState, type DragEvent } from 'react'
import { FormProvider, useForm, useFormContext, useWatch, type UseFormRegisterReturn } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas, Test, View } from '../api/client'
import { useSavePlan, useSaveTemplate, useTakeOutTest } from './queries'
import { needOf } from '../measure/words'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { bytes, figure } from '../ui/format'
import { Refusal } from '../ui/parts'
import { Unsaved } from '../ui/Unsaved'
import { AddTest } from './AddTest'
import { readNumber } from '../ui/numbers'
import { byHandAlone, changeOf, moved, planForm, planSchema, type PlanForm } from './planForm'
import { Templates } from './Templates'

/** PlanEditor is what is measured, as one list: its order, how often, how large, and how often the customer does it; the same for every side. */
export function PlanEditor({ view }: { view: View }) {
  const takeOut = useTakeOutTest(view.id)
  const [notice, setNotice] = useState('')
  return (
    <section aria-labelledby="plan" className="flex flex-col gap-4">
      <h2 id="plan" className="-mb-2 text-xl font-bold">
        Plan
      </h2>
      <Templates view={view} />
      <PlanFields view={view} onNotice={setNotice} onTakeOut={(id) => takeOut.run(id, (v) => setNotice(noticeOf(v)))} />
      {notice && (
        <p role="status" className="border-l-4 border-info pl-3 font-semibold">
          {notice}
        </p>
      )}
      {takeOut.error && <Refusal error={takeOut.error} />}
      <div className="flex flex-wrap items-end gap-2">
        <AddTest view={view} />
        <KeepAsTemplate job={view.id} />
      </div>
    </section>
  )
}

/** noticeOf is what the bench wants known of a change of the plan. */
const noticeOf = (answer: unknown) => (answer as Schemas['Changed'] | undefined)?.notice ?? ''

/** PlanFields is the plan as one form: nothing is changed until it is saved, and then all at once. */
function PlanFields({ view, onNotice, onTakeOut }: { view: View; onNotice: (words: string) => void; onTakeOut: (id: string) => void }) {
  const save = useSavePlan(view.id)
  // What somebody else changes comes in; what was typed here stays.
  const form = useForm<PlanForm>({ resolver: zodResolver(planSchema), values: planForm(view), resetOptions: { keepDirtyValues: true } })
  const { formState, handleSubmit, register } = form
  const questions = view.job.plan.questions ?? []
  const inPlan = view.job.tests.filter((t) => !t.retired)
  const ids = inPlan.map((t) => t.id)
  const order = (to: string[]) => save.run({ order: to })
  const submit = (v: PlanForm) =>
    save.run(changeOf(view, v), (after) => {
      form.reset(planForm(after))
      onNotice(noticeOf(after))
    })
  return (
    <FormProvider {...form}>
      <form aria-label="Plan" noValidate className="flex flex-col gap-4" onSubmit={handleSubmit(submit)}>
        <ul>
          {inPlan.map((t, i) => (
            <TestLine
              key={t.id}
              test={t}
              others={inPlan.filter((o) => o.id !== t.id && byHandAlone(o))}
              headline={view.job.plan.headline === t.id}
              first={i === 0}
              last={i === inPlan.length - 1}
              onHeadline={() => save.run({ headline: t.id })}
              onMove={(by) => order(moved(ids, i, i + by))}
              onDrop={(from) => order(moved(ids, ids.indexOf(from), i))}
              onTakeOut={() => onTakeOut(t.id)}
            />
          ))}
        </ul>
        {questions.length > 0 && (
          <section>
            <h3 className="mb-2 font-bold">How the customer uses it</h3>
            <div className="flex flex-wrap gap-x-6 gap-y-3">
              {questions.map((q) => (
                <Field key={q.id} className="w-72" label={q.text} inputMode="decimal" error={formState.errors.answers?.[q.id]?.message} {...register(`answers.${q.id}`)} />
              ))}
            </div>
          </section>
        )}
        {save.error && <Refusal error={save.error} />}
        <Unsaved when={formState.isDirty && !save.isPending} />
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
type Line = {
  test: Test
  /** others are the tests that it can follow in one start. */
  others: Test[]
  headline: boolean
  first: boolean
  last: boolean
  onHeadline: () => void
  onMove: (by: -1 | 1) => void
  /** onDrop: another test was dropped on this one. */
  onDrop: (from: string) => void
  onTakeOut: () => void
}

function TestLine({ test, others, headline, first, last, onHeadline, onMove, onDrop, onTakeOut }: Line) {
  const { register, formState } = useFormContext<PlanForm>()
  const wrong = formState.errors.tests?.[test.id]
  const [pressing, setPressing] = useState(false)
  const field = (of: string, put: UseFormRegisterReturn, error: string | undefined, unit: string, className: string, title?: string) => (
    <Field bare className={className} unit={unit} title={title} label={`${of} of ${test.name}`} inputMode="decimal" error={error} {...put} />
  )
  const waits = test.kind === 'timed' || test.kind === 'file'
  return (
    <li
      className="flex flex-wrap items-center gap-x-3 gap-y-0.5 border-b border-base-300 max-sm:gap-x-1.5"
      onDragOver={(e: DragEvent) => e.preventDefault()}
      onDrop={(e: DragEvent) => {
        e.preventDefault()
        const from = e.dataTransfer.getData('text/plain')
        if (from && from !== test.id) onDrop(from)
      }}
    >
      <span className="flex items-center">
        <span draggable className="cursor-grab p-1 max-sm:hidden" title="Drag to another place" onDragStart={(e: DragEvent) => e.dataTransfer.setData('text/plain', test.id)}>
          <GripVertical size={18} aria-hidden className="text-secondary" />
        </span>
        <button type="button" className="btn btn-ghost btn-square btn-sm" disabled={first} aria-label={`Move ${test.name} up`} onClick={() => onMove(-1)}>
          <ArrowUp size={16} aria-hidden />
        </button>
        <button type="button" className="btn btn-ghost btn-square btn-sm" disabled={last} aria-label={`Move ${test.name} down`} onClick={() => onMove(1)}>
          <ArrowDown size={16} aria-hidden />
        </button>
      </span>
      <span className="flex-1 basis-48 font-semibold">
        {test.name}
        {byHandAlone(test) && (
          <>
            {' '}
            <button type="button" className="link text-sm font-normal whitespace-nowrap text-secondary" aria-expanded={pressing} aria-label={`When to press: ${test.name}`} onClick={() => setPressing(!pressing)}>
              when to press
            </button>
          </>
        )}
      </span>
      {waits && (
        <button
          type="button"
          className={`btn btn-ghost btn-square ${headline ? '' : 'text-secondary'}`}
          aria-pressed={headline}
          aria-label={`Report headline: ${test.name}`}
          title="Use for the report’s headline"
          onClick={onHeadline}
        >
          <Star size={18} aria-hidden className={headline ? 'fill-current' : ''} />
        </button>
      )}
      {field('Runs', register(`tests.${test.id}.runs`), wrong?.runs?.message, 'runs', 'w-28 max-sm:w-24')}
      {test.params && field('Test file', register(`tests.${test.id}.mib`), wrong?.mib?.message, test.params.fresh ? 'MiB written' : test.params.existing ? 'MiB read' : 'MiB', 'w-44 max-sm:w-36', bytes(test.params.span_bytes))}
      {waits && field('Uses a week', register(`tests.${test.id}.uses`), wrong?.uses?.message, 'a week', 'w-44 max-sm:w-32')}
      {!test.params && !waits && <span className="w-44 max-sm:hidden" />}
      <button type="button" className="btn btn-ghost btn-square" aria-label={`Remove ${test.name}`} title="Remove" onClick={onTakeOut}>
        <X size={18} aria-hidden />
      </button>
      {test.params?.streams && <StreamsFields test={test} />}
      {pressing && <PressFields test={test} others={others} />}
    </li>
  )
}

/** PressFields say when to press for a wait, and which test it follows in one start. */
function PressFields({ test, others }: { test: Test; others: Test[] }) {
  const { register, formState } = useFormContext<PlanForm>()
  const wrong = formState.errors.tests?.[test.id]
  return (
      <div className="flex basis-full flex-wrap items-end gap-3 pt-1 pb-2">
        <Field className="min-w-56 flex-1" label="It begins" placeholder="you press the power button" error={wrong?.begin?.message} {...register(`tests.${test.id}.begin`)} />
        <Field className="min-w-56 flex-1" label="It ends" placeholder="the pointer moves freely" error={wrong?.end?.message} {...register(`tests.${test.id}.end`)} />
        <label className="text-sm font-semibold">
          Follows, in the same start
          <select className="select mt-1 flex w-64" {...register(`tests.${test.id}.follows`)}>
            <option value="">nothing: it needs its own start</option>
            {others.map((o) => (
              <option key={o.id} value={o.id}>
                {o.name}
              </option>
            ))}
          </select>
        </label>
      </div>
  )
}

const streamFields = [
  ['count', 'Recordings'],
  ['plays', 'Playbacks'],
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
  const need = now ? needOf({ count: n(now.count) ?? 0, plays: n(now.plays) ?? 0, ...(n(now.mb_s) ? { mb_s: n(now.mb_s) } : { width: n(now.width), height: n(now.height), frames_s: n(now.frames_s), bits: n(now.bits) }) }) : 0
  return (
    <div className="flex basis-full flex-wrap items-end gap-3 pb-1">
      {streamFields.map(([key, label]) => (
        <Field key={key} className="w-24" label={label} inputMode="decimal" {...register(`tests.${test.id}.streams.${key}`)} />
      ))}
      <span className="pb-2 font-semibold">need {figure(need, 'MB/s')}</span>
    </div>
  )
}

const templateSchema = z.object({ name: z.string().trim().min(1).max(200) })

function KeepAsTemplate({ job }: { job: string }) {
  const save = useSaveTemplate()
  const { register, handleSubmit, control, reset } = useForm({ resolver: zodResolver(templateSchema), defaultValues: { name: '' } })
  const empty = useWatch({ control, name: 'name' }).trim() === ''
  const [open, setOpen] = useState(false)
  const done = () => {
    reset()
    setOpen(false)
  }
  if (!open) {
    return (
      <>
        <button type="button" className="btn" onClick={() => setOpen(true)}>
          Save as template
        </button>
        {save.isSuccess && (
          <p role="status" className="self-center">
            Saved for the next job.
          </p>
        )}
      </>
    )
  }
  return (
    <form
      className="sheet flex basis-full flex-wrap items-end gap-2 p-4"
      onSubmit={(e) => void handleSubmit(({ name }) => save.run({ job, name }, done))(e)}
      onKeyDown={(e) => e.key === 'Escape' && setOpen(false)}
    >
      <Field className="w-72" autoFocus label="Save this plan as a template of the shop" placeholder="name" maxLength={200} {...register('name')} />
      <CommandButton of={save} type="submit" disabled={empty}>
        Save template
      </CommandButton>
      <button type="button" className="btn btn-ghost" onClick={() => setOpen(false)}>
        Cancel
      </button>
      {save.error && <Refusal error={save.error} />}
    </form>
  )
}
