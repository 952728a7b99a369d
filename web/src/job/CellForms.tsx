import { useState } from 'react'
import type { Setup, Test, View } from '../api/client'
import { useExcuse, useSit, useTypeIn } from '../api/queries'
import { Refusal } from '../ui/parts'
import { readTyped, type Typed } from './typed'
import { lastSitting, setupName } from './view'

/** CellForms types a figure into a cell of the plan, or says why it stays empty. */
export function CellForms({ view, test, setup, cannot, done }: { view: View; test: Test; setup: Setup; cannot: string; done: boolean }) {
  const [open, setOpen] = useState<'type' | 'cannot'>()
  const excuse = useExcuse(view.id)
  const where = `${test.name}, ${setupName(setup)}`
  return (
    <>
      {!cannot && test.kind !== 'drive' && (
        <button
          type="button"
          className="link text-sm text-secondary"
          aria-label={`Type in: ${where}`}
          onClick={() => setOpen(open === 'type' ? undefined : 'type')}
        >
          Type in
        </button>
      )}
      {cannot ? (
        <button type="button" className="link text-sm" onClick={() => excuse.mutate({ test: test.id, setup: setup.id, why: '' })}>
          It can after all
        </button>
      ) : (
        !done && (
          <button
            type="button"
            className="link text-sm text-secondary"
            aria-label={`Cannot be done: ${where}`}
            onClick={() => setOpen(open === 'cannot' ? undefined : 'cannot')}
          >
            Cannot be done
          </button>
        )
      )}
      {open === 'type' && <TypeIn view={view} test={test} setup={setup} onDone={() => setOpen(undefined)} />}
      {open === 'cannot' && (
        <OneLine
          label={`Why ${where} cannot be done`}
          verb="Note it"
          error={excuse.error}
          onDone={(why) => excuse.mutate({ test: test.id, setup: setup.id, why }, { onSuccess: () => setOpen(undefined) })}
          onLeave={() => setOpen(undefined)}
        />
      )}
    </>
  )
}

/** TypeIn keeps a figure read off elsewhere. It opens a sitting where there is none yet; one that looks wrong is asked about. */
function TypeIn({ view, test, setup, onDone }: { view: View; test: Test; setup: Setup; onDone: () => void }) {
  const typeIn = useTypeIn(view.id)
  const sit = useSit(view.id)
  const [wrong, setWrong] = useState<string>()
  const [how, setHow] = useState('')
  const send = (typed: Typed, sure: boolean) => {
    const put = (v: View) =>
      typeIn.mutate({ test: test.id, sitting: lastSitting(v, setup.id)!.id, ...typed, sure, ...(how.trim() ? { note: how.trim() } : {}) }, { onSuccess: onDone })
    if (lastSitting(view, setup.id)) put(view)
    else sit.mutate({ setup: setup.id, conditions: { busy: [] } }, { onSuccess: put })
  }
  const [last, setLast] = useState<Typed>()
  const keep = (text: string) => {
    const typed = readTyped(text, test.unit)
    if (!typed) {
      setWrong(`A number in ${test.unit}, such as 12.5.`)
      return
    }
    setWrong(undefined)
    setLast(typed)
    send(typed, false)
  }
  const ask = typeIn.error?.refusal.ask
  return (
    <>
      <OneLine
        label={`${test.name} in ${test.unit}`}
        unit={test.unit}
        verb="Keep"
        error={wrong ? new Error(wrong) : (typeIn.error ?? sit.error)}
        onDone={keep}
        onLeave={onDone}
      />
      <input
        className="input input-sm basis-full"
        aria-label={`How it was read: ${test.name}`}
        placeholder="how it was read: a watch, a program’s screen …"
        maxLength={500}
        value={how}
        onChange={(e) => setHow(e.target.value)}
      />
      {ask && last && (
        <span className="flex basis-full flex-wrap gap-2">
          <button type="button" className="btn btn-sm btn-primary" onClick={() => send({ value: ask.value, unit: ask.unit }, true)}>
            It was {ask.words}
          </button>
          <button type="button" className="btn btn-sm" onClick={() => send(last, true)}>
            It is right as it is
          </button>
        </span>
      )}
    </>
  )
}

function OneLine({
  label,
  unit,
  verb,
  error,
  onDone,
  onLeave,
}: {
  label: string
  unit?: string
  verb: string
  error: unknown
  onDone: (text: string) => void
  onLeave: () => void
}) {
  const [text, setText] = useState('')
  return (
    <form
      className="flex basis-full flex-col gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        onDone(text)
      }}
      onKeyDown={(e) => e.key === 'Escape' && onLeave()}
    >
      <div className="flex gap-2">
        <label className="input input-sm flex-1">
          <input autoFocus aria-label={label} maxLength={500} inputMode={unit ? 'decimal' : 'text'} value={text} onChange={(e) => setText(e.target.value)} />
          {unit && <span className="text-secondary">{unit}</span>}
        </label>
        <button className="btn btn-sm btn-primary" disabled={text.trim() === ''}>
          {verb}
        </button>
      </div>
      {Boolean(error) && <Refusal error={error} />}
    </form>
  )
}
