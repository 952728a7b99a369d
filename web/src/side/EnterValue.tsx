import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { Bare, Schemas, Setup, Test, View } from '../api/client'
import { useExcuse, useSit, useTypeIn } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { bytes } from '../ui/format'
import { OneField } from '../ui/OneField'
import { Refusal } from '../ui/parts'
import { size } from '../ui/size'
import { lastSitting, setupName } from '../job/view'

const short = z.string().trim().max(200, 'Enter at most 200 characters.')
const amount = short.refine((v) => v === '' || size(v) !== undefined, 'An amount with its unit, such as 4.2 GB.')
const figure = z.object({
  text: z.string().trim().min(1).max(100),
  how: z.string().trim().max(500),
  program: short,
  version: short,
  testFile: amount,
  copied: amount,
  files: short.refine((v) => v === '' || /^[0-9]{1,9}$/.test(v), 'A whole number, such as 1200.'),
})
type Figure = z.infer<typeof figure>

/** moreOf is what a figure says of where it was read and how much was copied; what is empty isn't sent. */
function moreOf(f: Figure): Pick<Schemas['Run'], 'read_in' | 'bytes' | 'files'> {
  const program = { ...(f.program && { program: f.program }), ...(f.version && { version: f.version }), ...(f.testFile && { file_bytes: size(f.testFile)! }) }
  return { ...(Object.keys(program).length > 0 && { read_in: program }), ...(f.copied && { bytes: size(f.copied)! }), ...(f.files && { files: Number(f.files) }) }
}

/** copies reports whether a test moves files, so that it matters how much. */
const copies = (test: Test) => test.kind === 'file' || test.occasion === 'copy'

/** elsewhere reports whether a test's figure is one that another program showed. */
const elsewhere = (test: Test) => test.what === 'rate-read' || test.what === 'score-read'

/** CannotForm says why a test can't be measured on a setup, or that it can. */
export function CannotForm({ view, test, setup, cannot, done }: { view: View; test: Test; setup: Setup; cannot: string; done: boolean }) {
  const [open, setOpen] = useState(false)
  const excuse = useExcuse(view.id)
  const where = `${test.name}, ${setupName(setup)}`
  if (cannot) {
    return (
      <CommandButton of={excuse} size="sm" onClick={() => excuse.run({ test: test.id, setup: setup.id, why: '' })}>
        Can be measured
      </CommandButton>
    )
  }
  if (done) return null
  return (
    <>
      <button type="button" className="btn btn-sm" aria-expanded={open} onClick={() => setOpen(!open)}>
        Can’t be measured
      </button>
      {open && (
        <OneField
          label={`Why ${where} can’t be measured`}
          verb="Save"
          of={excuse}
          error={excuse.error}
          className="basis-full"
          onDone={(why) => excuse.run({ test: test.id, setup: setup.id, why }, () => setOpen(false))}
          focused
          onLeave={() => setOpen(false)}
        />
      )}
    </>
  )
}

/** EnterValue stores a figure from elsewhere as written; the bench parses it. It opens a sitting with unknown conditions if there is none yet. A figure that looks wrong is queried. */
export function EnterValue({ view, test, setup, onKept }: { view: View; test: Test; setup: Setup; onKept: () => void }) {
  const typeIn = useTypeIn(view.id)
  const sit = useSit(view.id)
  const before = view.job.runs.filter((r) => r.test === test.id && (r.read_in || r.bytes)).at(-1)
  const { register, handleSubmit, control, resetField, formState } = useForm<Figure>({
    resolver: zodResolver(figure),
    defaultValues: {
      text: '',
      how: '',
      program: before?.read_in?.program ?? '',
      version: before?.read_in?.version ?? '',
      testFile: before?.read_in?.file_bytes ? bytes(before.read_in.file_bytes) : '',
      copied: '',
      files: '',
    },
  })
  const wrong = formState.errors
  const empty = useWatch({ control, name: 'text' }).trim() === ''
  const [last, setLast] = useState<Figure>()
  const send = (read: { text: string } | { value: number; unit: string }, from: Figure, sure: boolean) => {
    const put = (v: Bare) =>
      typeIn.run({ test: test.id, sitting: lastSitting(v, setup.id)!.id, ...read, sure, ...(from.how && { note: from.how }), ...moreOf(from) }, () => {
        setLast(undefined)
        resetField('text') // how it was read is the same for the next one
        onKept()
      })
    if (lastSitting(view, setup.id)) put(view)
    else sit.run({ setup: setup.id, conditions: {} }, put)
  }
  const keep = handleSubmit((read) => {
    setLast(read)
    send({ text: read.text }, read, false)
  })
  const ask = typeIn.error?.refusal.ask
  const error = typeIn.error ?? sit.error
  return (
    <form className="flex flex-wrap gap-2" onSubmit={(e) => void keep(e)}>
      {(elsewhere(test) || copies(test)) && (
        <div className="grid basis-full gap-3 sm:grid-cols-3">
          {elsewhere(test) && (
            <>
              <Field label="Program" maxLength={200} error={wrong.program?.message} {...register('program')} />
              <Field label="Its version" maxLength={200} error={wrong.version?.message} {...register('version')} />
              <Field label="Size of its test file" placeholder="1 GiB" maxLength={200} error={wrong.testFile?.message} {...register('testFile')} />
            </>
          )}
          {copies(test) && (
            <>
              <Field label="How much was copied" placeholder="4.2 GB" maxLength={200} error={wrong.copied?.message} {...register('copied')} />
              <Field label="How many files" placeholder="1200" inputMode="numeric" maxLength={20} error={wrong.files?.message} {...register('files')} />
            </>
          )}
        </div>
      )}
      <label className="input input-sm flex-1 basis-56">
        <input autoFocus={test.kind === 'note'} aria-label={`${test.name} in ${test.unit}`} placeholder={test.unit === 's' ? '92.4, 1:32, > 10 min' : '265, 260-270, > 30'} {...register('text')} />
        <span className="text-secondary">{test.unit}</span>
      </label>
      <CommandButton of={typeIn} type="submit" size="sm" tone="primary" disabled={empty}>
        Keep
      </CommandButton>
      <input className="input input-sm flex-1 basis-72" aria-label={`How it was read: ${test.name}`} placeholder="how it was read: a watch, a program’s screen …" {...register('how')} />
      {Boolean(error) && (
        <div className="basis-full">
          <Refusal error={error} />
        </div>
      )}
      {ask && last && (
        <span className="flex basis-full flex-wrap gap-2">
          <CommandButton of={typeIn} size="sm" tone="primary" onClick={() => send({ value: ask.value, unit: ask.unit }, last, true)}>
            It was {ask.words}
          </CommandButton>
          <CommandButton of={typeIn} size="sm" onClick={() => send({ text: last.text }, last, true)}>
            It is correct
          </CommandButton>
        </span>
      )}
    </form>
  )
}
