import { useState } from 'react'
import type { Setup, Test, View } from '../api/client'
import { useExcuse, useSit, useTypeIn } from '../api/queries'
import { CommandButton } from '../ui/CommandButton'
import { OneField } from '../ui/OneField'
import { lastSitting, setupName } from '../job/view'

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
  const [how, setHow] = useState('')
  const [last, setLast] = useState('')
  const [done, setDone] = useState(0)
  const send = (figure: { text: string } | { value: number; unit: string }, sure: boolean) => {
    const put = (v: View) =>
      typeIn.run({ test: test.id, sitting: lastSitting(v, setup.id)!.id, ...figure, sure, ...(how.trim() ? { note: how.trim() } : {}) }, () => {
        setDone((n) => n + 1)
        onKept()
      })
    if (lastSitting(view, setup.id)) put(view)
    else sit.run({ setup: setup.id, conditions: {} }, put)
  }
  const ask = typeIn.error?.refusal.ask
  return (
    <div key={done} className="flex flex-wrap gap-2">
      <OneField
        focused={test.kind === 'note'}
        label={`${test.name} in ${test.unit}`}
        unit={test.unit}
        placeholder="a figure read elsewhere"
        className="flex-1 basis-56"
        verb="Keep"
        of={typeIn}
        error={typeIn.error ?? sit.error}
        onDone={(text) => {
          setLast(text)
          send({ text }, false)
        }}
      />
      <input
        className="input input-sm flex-1 basis-72"
        aria-label={`How it was read: ${test.name}`}
        placeholder="how it was read: a watch, a program’s screen …"
        maxLength={500}
        value={how}
        onChange={(e) => setHow(e.target.value)}
      />
      {ask && last && (
        <span className="flex basis-full flex-wrap gap-2">
          <CommandButton of={typeIn} size="sm" tone="primary" onClick={() => send({ value: ask.value, unit: ask.unit }, true)}>
            It was {ask.words}
          </CommandButton>
          <CommandButton of={typeIn} size="sm" onClick={() => send({ text: last }, true)}>
            It is correct
          </CommandButton>
        </span>
      )}
    </div>
  )
}
