import { useState } from 'react'
import { client, data, type Conditions, type Setup, type View } from '../api/client'
import { useAmendSitting, useForgetEvent, useNoteEvent, useSit } from './queries'
import { useHere } from '../job/queries'
import { conditionsInWords, lastSitting, unknownConditions, whereWords } from '../job/view'
import { look, useProbeOn } from '../probe/probe'
import { CommandButton } from '../ui/CommandButton'
import { Refusal } from '../ui/parts'
import { Undo } from '../ui/Undo'
import { ConditionsForm } from './ConditionsForm'
import { noNulls } from './conditions'

/** earlierConditions are those of the last sitting anywhere in the job, which may hold for the next one as well. */
function earlierConditions(view: View): Conditions | undefined {
  const last = view.job.sittings.at(-1)?.conditions
  if (!last) return undefined
  // What is measured or happened is of its own time.
  const { power, power_mode, busy, encrypted, encrypting, attached, firmware } = last
  return { power, power_mode, busy, encrypted, encrypting, attached, firmware }
}

/** ConditionsLine says on one line what is so while measuring, and what nobody knows; the form opens where something is to be changed. */
export function ConditionsLine({ view, setup }: { view: View; setup: Setup }) {
  const [form, setForm] = useState<'change' | 'new'>()
  const [failed, setFailed] = useState<unknown>()
  const [looking, setLooking] = useState(false)
  const sit = useSit(view.id)
  const amend = useAmendSitting(view.id)
  const sitting = lastSitting(view, setup.id)
  const probe = useProbeOn(view, setup.id)
  const earlier = earlierConditions(view)
  const done = () => setForm(undefined)
  const begin = (c: Conditions) => sit.run({ setup: setup.id, conditions: noNulls(c) }, done)
  const here = useHere(view, setup) && !probe
  const detect = async () => {
    setLooking(true)
    setFailed(undefined)
    try {
      begin(probe ? (await look(view.id, probe.id)).conditions : ((await data(client.GET('/api/conditions'))) as Conditions))
    } catch (e) {
      setFailed(e)
    }
    setLooking(false)
  }
  const said = sitting && conditionsInWords(sitting.conditions)
  const unknown = sitting && unknownConditions(sitting.conditions)
  return (
    <section aria-labelledby="conditions" className="border-y border-base-300 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <h2 id="conditions" className="font-bold">
          Test conditions
        </h2>
        {sitting ? (
          <p className="flex-1 basis-60">
            {[whereWords(sitting.where), ...said!].filter(Boolean).join(', ') || 'nothing noted'}
            {unknown!.length > 0 && <span className="text-warning"> · not known: {unknown!.join(', ')}</span>}
          </p>
        ) : (
          <p className="flex-1 basis-60 text-warning">Not entered yet. Differences between Then and Now make the comparison less certain.</p>
        )}
        {!sitting && (
          <>
            {earlier && (
              <CommandButton of={sit} size="sm" tone="primary" onClick={() => begin(earlier)}>
                Same as last time
              </CommandButton>
            )}
            {(here || probe) && (
              <CommandButton of={{ isPending: looking || sit.isPending }} size="sm" tone={earlier ? 'plain' : 'primary'} onClick={() => void detect()}>
                Detect automatically
              </CommandButton>
            )}
          </>
        )}
        {sitting && (
          <button type="button" className="btn btn-sm" aria-expanded={form === 'change'} onClick={() => setForm(form === 'change' ? undefined : 'change')}>
            Change
          </button>
        )}
        <button type="button" className="btn btn-sm" aria-expanded={form === 'new'} onClick={() => setForm(form === 'new' ? undefined : 'new')}>
          {sitting ? 'New session' : 'Enter conditions'}
        </button>
        <Mishap view={view} setup={setup} />
      </div>
      {Boolean(failed ?? (form ? undefined : sit.error)) && <Refusal error={failed ?? sit.error} />}
      {form === 'change' && sitting && (
        <ConditionsForm
          key={sitting.id}
          start={sitting.conditions}
          verb="Save"
          error={amend.error}
          busy={amend.isPending}
          onDone={(conditions) => amend.run({ sitting: sitting.id, conditions }, done)}
        />
      )}
      {form === 'new' && (
        <ConditionsForm here={here} verb="Save and continue" error={sit.error} busy={sit.isPending} onDone={(conditions) => sit.run({ setup: setup.id, conditions }, done)} />
      )}
    </section>
  )
}

const mishaps = { crash: 'It crashed', hang: 'It hung', restart: 'It restarted', vanished: 'The drive vanished' } as const

/** Mishap notes with one press that something went wrong during a test. */
function Mishap({ view, setup }: { view: View; setup: Setup }) {
  const note = useNoteEvent(view.id)
  const forget = useForgetEvent(view.id)
  const [noted, setNoted] = useState('')
  const test = view.next.setup === setup.id ? view.next.test : ''
  return (
    <>
      <details className="dropdown dropdown-end">
        <summary className="btn btn-ghost btn-sm">Something went wrong</summary>
        <div className="dropdown-content sheet z-10 flex w-44 flex-col gap-1 bg-base-100 p-2 shadow">
          {Object.entries(mishaps).map(([what, label]) => (
            <CommandButton
              key={what}
              of={note}
              size="sm"
              onClick={(e) => {
                e.currentTarget.closest('details')?.removeAttribute('open')
                note.run({ setup: setup.id, what, ...(test && { test }) }, () => setNoted(label))
              }}
            >
              {label}
            </CommandButton>
          ))}
        </div>
      </details>
      {note.error && <Refusal error={note.error} />}
      {noted && (
        <span className="basis-full">
          <Undo what={`${noted}: noted with its time.`} onUndo={() => forget.run(setup.id, () => setNoted(''))} onGone={() => setNoted('')} />
        </span>
      )}
    </>
  )
}
