import { Unplug } from 'lucide-react'
import { zodResolver } from '@hookform/resolvers/zod'
import type { ReactNode } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import { Link } from 'react-router'
import type { Schemas, View } from '../api/client'
import { usePassGate, useUnpassGate } from './queries'
import { useSwap, useTick } from '../swap/queries'
import { InUse } from '../intake/Drives'
import { CheckLine } from '../swap/CheckLine'
import { CommandButton } from '../ui/CommandButton'
import { time } from '../ui/format'
import { useGoOn } from '../ui/goOn'
import { Refusal } from '../ui/parts'
import { technician } from '../ui/technician'
import { fateAsked, fateOptions } from './fate'
import { Joins } from './Joins'
import { pagePath } from './paths'
import { comesOut } from './relation'
import { kindOf, type JobKind } from './stations'
import { nowOf, setupAs } from './view'

type GateName = 'old-drive-out' | 'case-closed' | 'measured-again' | 'handed-back'

const gates: Record<GateName, { title: string; missing: string; clear: string; verb: string; done?: string; passed: string }> = {
  'old-drive-out': {
    title: 'Checkpoint: old drive out',
    missing: 'Once it is out, you can’t measure this any more:',
    clear: 'Everything in the plan was measured on it.',
    verb: 'Old drive is out',
    passed: 'Old drive out',
  },
  'case-closed': {
    title: 'Checkpoint: case closed',
    missing: 'Test the drive in its final place, then close the case:',
    clear: 'Everything is ticked.',
    verb: 'Case is closed',
    passed: 'Case closed',
  },
  'measured-again': {
    title: 'Checkpoint: measured again',
    missing: 'On the new drive this is still missing:',
    clear: 'Everything in the plan was measured again.',
    verb: 'Continue without these tests',
    done: 'Measuring is done',
    passed: 'Measuring closed',
  },
  'handed-back': {
    title: 'Checkpoint: handed back',
    missing: 'Before it goes back:',
    clear: 'The report is issued.',
    verb: 'Hand back',
    passed: 'Handed back',
  },
}

/** beside are the words of the first checkpoint where no drive comes out. */
const beside: (typeof gates)['old-drive-out'] = {
  title: 'Checkpoint: new drive in',
  missing: 'Once it is in, you can’t measure this any more:',
  clear: 'Everything in the plan was measured without it.',
  verb: 'New drive goes in',
  passed: 'New drive in',
}

/** measured are the words of the checkpoint after measuring where there is more than one drive, or none that is new. */
const measured: Record<JobKind, Partial<(typeof gates)['measured-again']>> = {
  upgrade: {},
  comparison: { title: 'Checkpoint: all drives measured', missing: 'Still missing:', clear: 'Everything in the plan was measured on every drive.' },
  'check-up': { missing: 'Still missing:', clear: 'Everything in the plan was measured.' },
}

function wordsOf(view: View, name: GateName) {
  if (name === 'measured-again') return { ...gates[name], ...measured[kindOf(view)] }
  return name === 'old-drive-out' && !comesOut(view) ? beside : gates[name]
}

/** Gate is a checkpoint at the end of its station: what is missing and its boxes, or when it was passed. */

export function Gate({ view, name, children }: { view: View; name: GateName; children?: ReactNode }) {
  const gates = view.job.job.gates ?? []
  const passed = gates.findLast((g) => g.name === name)
  return (
    <div id="gate" className="scroll-mt-4">
      {passed ? (
        <div className="flex flex-wrap items-center gap-2 text-secondary">
          <Unplug size={18} aria-hidden className="shrink-0" />
          <span>
            {wordsOf(view, name).passed}: {time(passed.at)}.{(passed.why || passed.missing?.length) && ` Missing: ${passed.missing?.join('; ') || 'something'}.`}
            {passed.why && ` Because: ${passed.why}`}
            {passed.old_drive && ` Old drive: ${passed.old_drive}.`}
          </span>
          {gates.at(-1) === passed && <Unpass view={view} name={name} />}
        </div>
      ) : (
        <Standing view={view} name={name} lost={lostAt(view, name)}>
          {children}
          {name === 'old-drive-out' && <BeforeItComesOut view={view} />}
          {name === 'case-closed' && <BeforeItIsClosed view={view} />}
        </Standing>
      )}
    </div>
  )
}

/** Unpass undoes the last checkpoint. */
function Unpass({ view, name }: { view: View; name: GateName }) {
  const unpass = useUnpassGate(view.id)
  return (
    <>
      <CommandButton of={unpass} size="sm" aria-label={`Undo the checkpoint ${wordsOf(view, name).passed}`} onClick={() => unpass.run(name)}>
        Undo
      </CommandButton>
      {unpass.error && <Refusal error={unpass.error} />}
    </>
  )
}

const lostAt = (view: View, name: GateName): Schemas['Lost'][] => ({ 'old-drive-out': view.lost, 'case-closed': view.closing, 'measured-again': view.again, 'handed-back': view.back })[name]

/** BeforeItComesOut are the boxes that the first gate asks for. */
function BeforeItComesOut({ view }: { view: View }) {
  const tick = useTick(view.id)
  const backup = view.job.plan.steps?.find((s) => s.id === 'backup')
  const then = setupAs(view, 'then')
  const now = nowOf(view)
  return (
    <div className="mt-3 flex flex-wrap items-center gap-x-8 gap-y-3">
      {backup && (
        <label className="flex min-h-11 cursor-pointer items-center gap-3">
          <input type="checkbox" className="checkbox" checked={Boolean(backup.done)} onChange={(e) => tick.run({ step: backup.id, done: e.target.checked, by: technician.get() })} />
          {backup.text}
        </label>
      )}
      {then && <InUse view={view} setup={then} />}
      {now && <Joins view={view} setup={now} label="The new drive" />}
      {tick.error && <Refusal error={tick.error} />}
    </div>
  )
}

/** BeforeItIsClosed are the boxes that are ticked before the case is sealed. */
function BeforeItIsClosed({ view }: { view: View }) {
  const tick = useTick(view.id)
  const steps = view.job.plan.steps?.filter((s) => s.when === 'close') ?? []
  const left = steps.filter((s) => !s.done)
  // One after the other: what the bench refuses ends it, and is below.
  const tickAll = ([first, ...others]: typeof left) => first && tick.run({ step: first.id, done: true, by: technician.get() }, () => tickAll(others))
  return (
    <div className="mt-3 flex flex-col">
      {left.length > 1 && (
        <CommandButton of={tick} size="sm" className="self-start" onClick={() => void tickAll(left)}>
          Tick all {left.length}
        </CommandButton>
      )}
      {steps.map((s) => (
        <label key={s.id} className="flex min-h-11 cursor-pointer items-center gap-3">
          <input type="checkbox" className="checkbox" checked={Boolean(s.done)} onChange={(e) => tick.run({ step: s.id, done: e.target.checked, by: technician.get() })} />
          {s.text}
        </label>
      ))}
      {tick.error && <Refusal error={tick.error} />}
    </div>
  )
}

/** useUnfit are the failed checks of the new drive at a gate; each disappears when the probe sees it fixed. */
function useUnfit(view: View, name: GateName): Schemas['Check'][] {
  const checks = useSwap(view.id, name === 'case-closed' || name === 'handed-back').data?.checks
  return (checks ?? []).filter((c) => c.state === 'wrong' && c.gate === name)
}

/** Missing is what is missing at a checkpoint; tests that a page shows anyway are counted, with a link to it. What has a box says so itself. */
function Missing({ view, lost, at }: { view: View; lost: Schemas['Lost'][]; at: GateName }) {
  const tests = lost.filter((l) => l.test !== '')
  const counted = tests.length > 2 ? `${tests.length} tests not measured` : ''
  return (
    <ul className="mt-2 ml-5 list-disc font-semibold">
      {counted && (
        <li>
          {at === 'old-drive-out' ? (
            <Link className="link" to={pagePath(view.id, 'then')}>
              {counted}
            </Link>
          ) : (
            counted
          )}
        </li>
      )}
      {lost
        .filter((l) => !counted || l.test === '')
        .map((l) => (
          <li key={l.test + l.what}>{l.what}</li>
        ))}
    </ul>
  )
}

const passing = z.object({ why: z.string().trim() })
type Passing = z.infer<typeof passing>

function Standing({ view, name, lost, children }: { view: View; name: GateName; lost: Schemas['Lost'][]; children?: ReactNode }) {
  const pass = usePassGate(view.id)
  const goOn = useGoOn()
  const { register, handleSubmit, control } = useForm<Passing>({ resolver: zodResolver(passing), defaultValues: { why: '' } })
  const { why } = useWatch({ control })
  const unfit = useUnfit(view, name)
  // A field in which someone is typing stays: the keys would reach the page's shortcuts.
  const asks = lost.length > 0 || unfit.length > 0 || Boolean(why)
  const words = wordsOf(view, name)
  // What becomes of the old drive is asked above; where only one thing can, that is noted with the checkpoint.
  const asksFate = name === 'handed-back' && fateAsked(view)
  const can = fateOptions(view)
  const old_drive = asksFate && can.length === 1 ? can[0]?.value : undefined
  return (
    <section aria-labelledby="gate-title" className="border-x-8 border-base-content bg-base-200 p-4">
      <h2 id="gate-title" className="flex items-center gap-2 text-xl font-bold">
        <Unplug size={22} aria-hidden /> {words.title}
      </h2>
      {lost.length > 0 ? (
        <>
          <p className="mt-1">{words.missing}</p>
          {name !== 'case-closed' && <Missing view={view} lost={lost} at={name} />}
        </>
      ) : (
        <p className="mt-1">{words.clear}</p>
      )}
      {unfit.length > 0 && (
        <ul aria-label="To fix" className="mt-2">
          {unfit.map((c) => (
            <CheckLine key={c.id} check={c} />
          ))}
        </ul>
      )}
      {children}
      <form
        className="mt-4 flex flex-col gap-4"
        onSubmit={(e) => void handleSubmit((f) => pass.run({ gate: name, old_drive, ...f }, goOn(() => `/jobs/${view.id}`)))(e)}
      >
        {asksFate && !old_drive && <p>Choose above what happens to the old drive.</p>}
        <div className="flex flex-wrap items-end gap-2">
          {asks && (
            <label className="flex-1 basis-72 text-sm font-semibold">
              Reason for going ahead (goes into the report’s notes)
              <input className="input mt-1 w-full" maxLength={500} {...register('why')} />
            </label>
          )}
          <button
            className={`btn ${asks ? '' : 'btn-primary'}`}
            disabled={pass.isPending || (asks && why?.trim() === '') || (asksFate && !old_drive)}
          >
            {asks ? words.verb : (words.done ?? words.verb)}
          </button>
        </div>
      </form>
      {pass.error && (
        <div className="mt-3">
          <Refusal error={pass.error} />
        </div>
      )}
    </section>
  )
}
