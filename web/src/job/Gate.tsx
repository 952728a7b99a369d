import { Unplug } from 'lucide-react'
import { zodResolver } from '@hookform/resolvers/zod'
import type { ReactNode } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas, View } from '../api/client'
import { usePassGate, useSwap, useTick } from '../api/queries'
import { InUse } from '../intake/Drives'
import { CheckLine } from '../swap/CheckLine'
import { Choice } from '../ui/Choice'
import { time } from '../ui/format'
import { useGoOn } from '../ui/goOn'
import { Refusal } from '../ui/parts'
import { technician } from '../ui/technician'
import { Joins } from './Joins'
import { comesOut } from './relation'
import { nowOf, setupAs } from './view'

type GateName = 'old-drive-out' | 'case-closed' | 'measured-again' | 'handed-back'

const gates: Record<GateName, { title: string; missing: string; clear: string; verb: string; done?: string; passed: string }> = {
  'old-drive-out': {
    title: 'Checkpoint: the old drive comes out',
    missing: 'Once it is out, you can’t measure this any more:',
    clear: 'Everything in the plan was measured on it.',
    verb: 'The old drive is out',
    passed: 'The old drive came out',
  },
  'case-closed': {
    title: 'Checkpoint: the case is closed',
    missing: 'Try the drive where it is fitted, then seal the case:',
    clear: 'Everything is ticked.',
    verb: 'The case is closed',
    passed: 'The case was closed',
  },
  'measured-again': {
    title: 'Checkpoint: measured again',
    missing: 'On the new drive this is still missing:',
    clear: 'Everything in the plan was measured again.',
    verb: 'Continue without these tests',
    done: 'Measuring is done',
    passed: 'Measuring again was closed',
  },
  'handed-back': {
    title: 'Checkpoint: handed back',
    missing: 'Before it goes back:',
    clear: 'The report is issued.',
    verb: 'It is handed back',
    passed: 'It was handed back',
  },
}

/** Gate stands at the end of its station: with what is missing at it and the boxes that it asks for, or when it was passed. */
/** beside are the words of the first checkpoint where no drive comes out. */
const beside: (typeof gates)['old-drive-out'] = {
  title: 'Checkpoint: the new drive goes in',
  missing: 'Once it is in, you can’t measure this any more:',
  clear: 'Everything in the plan was measured without it.',
  verb: 'The new drive goes in',
  passed: 'The new drive went in',
}

const wordsOf = (view: View, name: GateName) => (name === 'old-drive-out' && !comesOut(view) ? beside : gates[name])

export function Gate({ view, name, children }: { view: View; name: GateName; children?: ReactNode }) {
  const passed = (view.job.job.gates ?? []).findLast((g) => g.name === name)
  return (
    <div id="gate" className="scroll-mt-4">
      {passed ? (
        <p className="flex items-center gap-2 text-secondary">
          <Unplug size={18} aria-hidden className="shrink-0" />
          <span>
            {wordsOf(view, name).passed} on {time(passed.at)}.{(passed.why || passed.missing?.length) && ` Missing: ${passed.missing?.join('; ') || 'something'}.`}
            {passed.why && ` Because: ${passed.why}`}
            {passed.old_drive && ` Old drive: ${passed.old_drive}.`}
          </span>
        </p>
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
  return (
    <div className="mt-3 flex flex-col">
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

/** useUnfit are the checks of the new drive that are wrong and stand at a gate; each goes by itself when the probe sees it mended. */
function useUnfit(view: View, name: GateName): Schemas['Check'][] {
  const checks = useSwap(view.id, name === 'case-closed' || name === 'handed-back').data?.checks
  return (checks ?? []).filter((c) => c.state === 'wrong' && c.gate === name)
}

const passing = z.object({ why: z.string().trim(), old_drive: z.enum(['returned', 'kept', 'destroyed']).optional() })
type Passing = z.infer<typeof passing>

function Standing({ view, name, lost, children }: { view: View; name: GateName; lost: Schemas['Lost'][]; children?: ReactNode }) {
  const pass = usePassGate(view.id)
  const goOn = useGoOn()
  const { register, handleSubmit, control, setValue } = useForm<Passing>({ resolver: zodResolver(passing), defaultValues: { why: '' } })
  const { why, old_drive } = useWatch({ control })
  const unfit = useUnfit(view, name)
  // A field in which someone is typing stays: the keys would reach the page's shortcuts.
  const asks = lost.length > 0 || unfit.length > 0 || Boolean(why)
  const words = wordsOf(view, name)
  const last = name === 'handed-back'
  return (
    <section aria-labelledby="gate-title" className="border-x-8 border-base-content bg-base-200 p-4">
      <h2 id="gate-title" className="flex items-center gap-2 text-xl font-bold">
        <Unplug size={22} aria-hidden /> {words.title}
      </h2>
      {lost.length > 0 ? (
        <>
          <p className="mt-1">{words.missing}</p>
          {name !== 'case-closed' && ( // whose boxes say it
            <ul className="mt-2 ml-5 list-disc font-semibold">
              {lost.map((l) => (
                <li key={l.test + l.what}>{l.what}</li>
              ))}
            </ul>
          )}
        </>
      ) : (
        <p className="mt-1">{words.clear}</p>
      )}
      {unfit.length > 0 && (
        <ul aria-label="To be put right" className="mt-2">
          {unfit.map((c) => (
            <CheckLine key={c.id} check={c} />
          ))}
        </ul>
      )}
      {children}
      <form
        className="mt-4 flex flex-col gap-4"
        onSubmit={(e) => void handleSubmit((f) => pass.run({ gate: name, ...f }, goOn(() => `/jobs/${view.id}`)))(e)}
      >
        {last && (
          <Choice
            label="What becomes of the old drive"
            value={old_drive}
            options={[
              { value: 'returned', label: 'Returned' },
              { value: 'kept', label: 'Kept here' },
              { value: 'destroyed', label: 'Destroyed' },
            ]}
            onChange={(v) => setValue('old_drive', v)}
          />
        )}
        <div className="flex flex-wrap items-end gap-2">
          {asks && (
            <label className="flex-1 basis-72 text-sm font-semibold">
              Reason for going ahead (goes into the report’s notes)
              <input className="input mt-1 w-full" maxLength={500} {...register('why')} />
            </label>
          )}
          <button
            className={`btn ${asks ? '' : 'btn-primary'}`}
            disabled={pass.isPending || (asks && why?.trim() === '') || (last && !old_drive)}
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
