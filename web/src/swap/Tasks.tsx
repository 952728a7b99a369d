import { zodResolver } from '@hookform/resolvers/zod'
import { Hand, Hourglass, Square } from 'lucide-react'
import { useEffect, useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { View } from '../api/client'
import { useBeginTask, useClockTask, useDescribeTask, useSwap } from './queries'
import { driveName, driveOf, setupOf } from '../job/view'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Fold } from '../ui/Fold'
import { time } from '../ui/format'
import { numeralOrNone, readNumber } from '../ui/numbers'
import { Refusal } from '../ui/parts'
import { taskSchema, toTask, type TaskForm } from './taskForm'
import { froms, howOf, leftWords, nameOf, now as asOfNow, rateWords, running, tookWords, usualWords, whats, type Sum, type Task } from './tasks'

/** useNow is the time, again every few seconds while something runs. */
function useNow(runs: boolean) {
  const [at, setAt] = useState(() => Date.now())
  useEffect(() => {
    if (!runs) return
    const timer = setInterval(() => setAt(Date.now()), 5000)
    return () => clearInterval(timer)
  }, [runs])
  return at
}

/** Tasks are the work of the visit by the clock: how long, by hand or waiting, and how it went. */
export function Tasks({ view }: { view: View }) {
  const swap = useSwap(view.id)
  const tasks = view.job.job.tasks ?? []
  const runs = tasks.some((t) => running(t))
  const at = useNow(runs)
  const since = swap.dataUpdatedAt > 0 ? at - swap.dataUpdatedAt : 0
  const sums = new Map(swap.data?.work.tasks.map((s) => [s.task, s]))
  const told = tasks.flatMap((t) => {
    const s = sums.get(t.id)
    return s ? [{ task: t, sum: asOfNow(s, t, since) }] : []
  })
  const total = told.reduce((a, { sum }) => ({ hands_on_s: a.hands_on_s + sum.hands_on_s, waiting_s: a.waiting_s + sum.waiting_s }), { hands_on_s: 0, waiting_s: 0 })
  return (
    // What runs is in sight, and stays so once it has ended.
    <Fold title="Work time" opened={runs} status={tasks.length === 0 ? 'not taken' : tookWords(total)} tone={runs ? 'font-semibold' : 'text-secondary'}>
      <ul>
        {told.map(({ task, sum }) => (
          <Line key={task.id} view={view} task={task} sum={sum} />
        ))}
      </ul>
      <Begin view={view} />
    </Fold>
  )
}

function Line({ view, task, sum }: { view: View; task: Task; sum: Sum }) {
  const clock = useClockTask(view.id)
  const [more, setMore] = useState<'' | 'stop' | 'describe'>('')
  const runs = running(task)
  const rate = rateWords(sum, sum.slower === 'then' ? 'the old drive' : sum.slower === 'now' ? 'the new drive' : driveName(driveOf(view, setupOf(view, sum.slower))))
  const go = (kind: 'hands-on' | 'waiting') => clock.run({ task: task.id, kind })
  return (
    <li className="border-b border-base-300 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <p className="min-w-0 flex-1 basis-56">
          <strong>{nameOf(task)}</strong> <span className="text-secondary">{howOf(task)}</span>
          <span className="block">
            {tookWords(sum)}
            {runs && <strong>{runs.kind === 'hands-on' ? ', by hand now' : ', waiting now'}</strong>}
          </span>
        </p>
        <CommandButton of={clock} size="sm" disabled={runs?.kind === 'hands-on'} aria-label={`By hand: ${nameOf(task)}`} onClick={() => go('hands-on')}>
          <Hand size={16} aria-hidden /> By hand
        </CommandButton>
        <CommandButton of={clock} size="sm" disabled={runs?.kind === 'waiting'} aria-label={`Waiting: ${nameOf(task)}`} onClick={() => go('waiting')}>
          <Hourglass size={16} aria-hidden /> Waiting
        </CommandButton>
        {runs && (
          <CommandButton of={clock} size="sm" tone="primary" aria-label={`Stop: ${nameOf(task)}`} onClick={() => clock.run({ task: task.id, kind: '' })}>
            <Square size={16} aria-hidden /> Stop
          </CommandButton>
        )}
        <button type="button" className="link text-sm" aria-expanded={more !== ''} onClick={() => setMore(more ? '' : runs ? 'stop' : 'describe')}>
          {runs ? 'It was interrupted, or ended earlier' : 'Describe'}
        </button>
      </div>
      {task.stretches
        .filter((s) => s.broke)
        .map((s) => (
          <p key={s.from} className="text-warning">
            Interrupted, {time(s.to ?? s.from)}: {s.broke}
          </p>
        ))}
      {rate && <p className={rate.slow ? 'font-semibold text-warning' : ''}>{rate.words}</p>}
      {leftWords(sum) && <p className="font-semibold">{leftWords(sum)}</p>}
      {usualWords(sum) && <p className="text-secondary">{usualWords(sum)}</p>}
      {more === 'stop' && runs && <Stopping view={view} task={task} onDone={() => setMore('')} />}
      {more === 'describe' && <Describing view={view} task={task} onDone={() => setMore('')} />}
      {clock.error && <Refusal error={clock.error} />}
    </li>
  )
}

const stopping = z.object({ broke: z.string().trim().max(500, 'Enter at most 500 characters.'), minutes: numeralOrNone })

/** Stopping ends what runs with what has to be said of it. */
function Stopping({ view, task, onDone }: { view: View; task: Task; onDone: () => void }) {
  const clock = useClockTask(view.id)
  const { register, handleSubmit, formState } = useForm({ resolver: zodResolver(stopping), defaultValues: { broke: '', minutes: '' } })
  return (
    <form
      noValidate
      className="flex flex-wrap items-end gap-2 pt-2"
      onSubmit={(e) => void handleSubmit((f) => clock.run({ task: task.id, kind: '', broke: f.broke, minutes: f.minutes.trim() === '' ? 0 : readNumber(f.minutes) }, onDone))(e)}
    >
      <Field className="min-w-56 flex-1" label="Why it was interrupted, if it was" placeholder="such as: a sector could not be read" error={formState.errors.broke?.message} {...register('broke')} />
      <Field className="w-44" label="It ran only for" unit="min" inputMode="decimal" error={formState.errors.minutes?.message} {...register('minutes')} />
      <CommandButton of={clock} type="submit" tone="primary">
        Stop with that
      </CommandButton>
      {clock.error && <Refusal error={clock.error} />}
    </form>
  )
}

function Describing({ view, task, onDone }: { view: View; task: Task; onDone: () => void }) {
  const describe = useDescribeTask(view.id)
  const form = useForm<TaskForm>({
    resolver: zodResolver(taskSchema),
    defaultValues: { what: task.what, words: task.words ?? '', from: (task.from ?? '') as TaskForm['from'], gb: task.bytes ? String(task.bytes / 1e9) : '' },
  })
  return (
    <form noValidate className="flex flex-col gap-2 pt-2" onSubmit={(e) => void form.handleSubmit((f) => describe.run({ task: task.id, ...toTask(f, '') }, onDone))(e)}>
      <Fields form={form} />
      <CommandButton of={describe} type="submit" tone="primary" className="self-start">
        Save
      </CommandButton>
      {describe.error && <Refusal error={describe.error} />}
    </form>
  )
}

const nothing: TaskForm = { what: 'clone', words: '', from: '', gb: '' }

/** Begin begins a task with its clock. */
function Begin({ view }: { view: View }) {
  const begin = useBeginTask(view.id)
  const [open, setOpen] = useState(false)
  const form = useForm<TaskForm>({ resolver: zodResolver(taskSchema), defaultValues: nothing })
  const start = (kind: 'hands-on' | 'waiting') =>
    void form.handleSubmit((f) =>
      begin.run(toTask(f, kind), () => {
        form.reset(nothing)
        setOpen(false)
      }),
    )()
  if (!open)
    return (
      <button type="button" className="btn btn-sm my-2" onClick={() => setOpen(true)}>
        Time a task
      </button>
    )
  return (
    <form noValidate className="flex flex-col gap-2 py-2" onSubmit={(e) => e.preventDefault()}>
      <Fields form={form} />
      <div className="flex flex-wrap gap-2">
        <CommandButton of={begin} tone="primary" onClick={() => start('waiting')}>
          <Hourglass size={16} aria-hidden /> Start: waiting
        </CommandButton>
        <CommandButton of={begin} tone="primary" onClick={() => start('hands-on')}>
          <Hand size={16} aria-hidden /> Start: by hand
        </CommandButton>
      </div>
      {begin.error && <Refusal error={begin.error} />}
    </form>
  )
}

function Fields({ form: { register, control, setValue, formState } }: { form: ReturnType<typeof useForm<TaskForm>> }) {
  const what = useWatch({ control, name: 'what' })
  const from = useWatch({ control, name: 'from' })
  return (
    <>
      <Choice label="What" value={what} options={[...whats]} onChange={(v) => setValue('what', v)} />
      {what !== 'other' && <Choice label="From" value={from || undefined} options={[...froms]} onChange={(v) => setValue('from', v)} />}
      <div className="flex flex-wrap gap-2">
        <Field className="min-w-56 flex-1" label={what === 'other' ? 'What it is' : 'How'} maxLength={500} error={formState.errors.words?.message} {...register('words')} />
        {what !== 'other' && what !== 'install' && <Field className="w-44" label="How much" unit="GB" inputMode="decimal" error={formState.errors.gb?.message} {...register('gb')} />}
      </div>
    </>
  )
}
