import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { Setup, Test, View } from '../api/client'
import { useExcuse, useSit, useTypeIn } from '../api/queries'
import { CommandButton } from '../ui/CommandButton'
import { OneField } from '../ui/OneField'
import { Refusal } from '../ui/parts'
import { lastSitting, setupName } from '../job/view'

const figure = z.object({ text: z.string().trim().min(1).max(500), how: z.string().trim().max(500) })
type Figure = z.infer<typeof figure>

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

/** EnterValue keeps a figure read off elsewhere, as it is written: the bench reads it. It opens a sitting where there is none yet, of which nothing is known; one that looks wrong is asked about. */
export function EnterValue({ view, test, setup, onKept }: { view: View; test: Test; setup: Setup; onKept: () => void }) {
  const typeIn = useTypeIn(view.id)
  const sit = useSit(view.id)
  const { register, handleSubmit, control, resetField } = useForm<Figure>({ resolver: zodResolver(figure), defaultValues: { text: '', how: '' } })
  const empty = useWatch({ control, name: 'text' }).trim() === ''
  const [last, setLast] = useState<Figure>()
  const send = (read: { text: string } | { value: number; unit: string }, how: string, sure: boolean) => {
    const put = (v: View) =>
      typeIn.run({ test: test.id, sitting: lastSitting(v, setup.id)!.id, ...read, sure, ...(how && { note: how }) }, () => {
        setLast(undefined)
        resetField('text') // how it was read is the same for the next one
        onKept()
      })
    if (lastSitting(view, setup.id)) put(view)
    else sit.run({ setup: setup.id, conditions: {} }, put)
  }
  const keep = handleSubmit((read) => {
    setLast(read)
    send({ text: read.text }, read.how, false)
  })
  const ask = typeIn.error?.refusal.ask
  const error = typeIn.error ?? sit.error
  return (
    <form className="flex flex-wrap gap-2" onSubmit={(e) => void keep(e)}>
      <label className="input input-sm flex-1 basis-56">
        <input autoFocus={test.kind === 'note'} aria-label={`${test.name} in ${test.unit}`} placeholder="a figure read elsewhere" {...register('text')} />
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
          <CommandButton of={typeIn} size="sm" tone="primary" onClick={() => send({ value: ask.value, unit: ask.unit }, last.how, true)}>
            It was {ask.words}
          </CommandButton>
          <CommandButton of={typeIn} size="sm" onClick={() => send({ text: last.text }, last.how, true)}>
            It is correct
          </CommandButton>
        </span>
      )}
    </form>
  )
}
