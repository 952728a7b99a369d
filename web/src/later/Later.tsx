import { zodResolver } from '@hookform/resolvers/zod'
import { X } from 'lucide-react'
import { useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import type { View } from '../api/client'
import { useAnswerPromise, useDropPromise, usePromise } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { day } from '../ui/format'
import { OneField } from '../ui/OneField'
import { Refusal } from '../ui/parts'
import { dueDay, dueIn, iso, nameOf, overdue, promiseWords, terms, type Promised } from './later'
import { promiseSchema, toPromise, type PromiseForm } from './promiseForm'

/** Later are the follow-ups after hand-back, each with its day and its outcome. */
export function Later({ view }: { view: View }) {
  const [open, setOpen] = useState(false)
  const promises = view.job.job.promises ?? []
  return (
    <section aria-labelledby="later">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 id="later" className="mr-auto text-xl font-bold">
          Later
        </h2>
        <button type="button" className="btn btn-sm" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Close' : 'Add a follow-up'}
        </button>
      </div>
      {promises.length === 0 && !open && <p className="text-secondary">No follow-ups.</p>}
      <ul>
        {promises.map((p) => (
          <Line key={p.id} view={view} of={p} />
        ))}
      </ul>
      {open && <Form view={view} onDone={() => setOpen(false)} />}
    </section>
  )
}

function Line({ view, of }: { view: View; of: Promised }) {
  const answer = useAnswerPromise(view.id)
  const drop = useDropPromise(view.id)
  const words = promiseWords(of, nameOf(view, of))
  const test = view.job.tests.find((t) => t.id === of.test)
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 py-2">
      <p className="min-w-0 flex-1 basis-64">
        <strong>{words}</strong>{' '}
        {of.answered ? (
          <span>
            {of.answer} <span className="text-secondary">({day(of.answered)})</span>
          </span>
        ) : (
          <span className={overdue(of, iso(new Date())) ? 'font-semibold text-warning' : 'text-secondary'}>due {dueDay(of.due)}</span>
        )}
      </p>
      {!of.answered && (
        <>
          <OneField
            className="w-80 max-w-full"
            label={`Result: ${words}`}
            placeholder={of.what === 'words' ? 'what came of it' : undefined}
            unit={of.what === 'fill' ? '%' : test?.unit}
            verb="Keep"
            of={answer}
            error={answer.error}
            onDone={(text, clear) => answer.run({ promise: of.id, text }, clear)}
          />
          <button type="button" className="btn btn-ghost btn-square" aria-label={`Remove: ${words}`} title="Remove" onClick={() => drop.run(of.id)}>
            <X size={18} aria-hidden />
          </button>
        </>
      )}
      {drop.error && <Refusal error={drop.error} />}
    </li>
  )
}

function Form({ view, onDone }: { view: View; onDone: () => void }) {
  const promise = usePromise(view.id)
  const { register, control, handleSubmit, setValue, formState } = useForm<PromiseForm>({
    resolver: zodResolver(promiseSchema),
    defaultValues: { what: 'words', words: '', due: dueIn('week', new Date()) },
  })
  const due = useWatch({ control, name: 'due' })
  const tests = view.job.tests.filter((t) => !t.retired && (t.kind === 'timed' || t.kind === 'note'))
  return (
    <form noValidate className="sheet mt-2 flex flex-wrap items-start gap-4 p-4" onSubmit={(e) => void handleSubmit((f) => promise.run(toPromise(f), onDone))(e)}>
      <label className="text-sm font-semibold">
        What
        <select className="select mt-1 flex w-64" {...register('what')}>
          <option value="words">in words</option>
          <option value="fill">how full the drive is</option>
          {tests.map((t) => (
            <option key={t.id} value={t.id}>
              {t.name} again
            </option>
          ))}
        </select>
      </label>
      <Field className="min-w-64 flex-1" label="In words" placeholder="such as: again with the new setting" error={formState.errors.words?.message} {...register('words')} />
      <div>
        <Field className="w-44" label="Day" type="date" error={formState.errors.due?.message} {...register('due')} />
        <div className="flex gap-1 pt-1.5">
          {terms.map((t) => (
            <button
              key={t.value}
              type="button"
              aria-pressed={due === dueIn(t.value, new Date())}
              className={`btn btn-sm ${due === dueIn(t.value, new Date()) ? 'btn-primary' : ''}`}
              onClick={() => setValue('due', dueIn(t.value, new Date()), { shouldDirty: true })}
            >
              {t.label}
            </button>
          ))}
        </div>
      </div>
      <CommandButton of={promise} type="submit" tone="primary" className="self-end">
        Note it
      </CommandButton>
      {promise.error && <Refusal error={promise.error} />}
    </form>
  )
}
