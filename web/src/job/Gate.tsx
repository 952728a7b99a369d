import { Unplug } from 'lucide-react'
import { useState } from 'react'
import type { Schemas, View } from '../api/client'
import { usePassGate } from '../api/queries'
import { Choice } from '../ui/Choice'
import { time } from '../ui/format'
import { Refusal } from '../ui/parts'

type GateName = 'old-drive-out' | 'measured-again' | 'handed-back'

const gates: Record<GateName, { title: string; missing: string; clear: string; verb: string; passed: string }> = {
  'old-drive-out': {
    title: 'Gate: the old drive comes out',
    missing: 'Once it is out, this can never be made up:',
    clear: 'Everything in the plan was measured on it.',
    verb: 'The old drive is out',
    passed: 'The old drive came out',
  },
  'measured-again': {
    title: 'Gate: measured again',
    missing: 'On the new drive this is still missing:',
    clear: 'Everything in the plan was measured again.',
    verb: 'Go on without it',
    passed: 'Measuring again was ended',
  },
  'handed-back': {
    title: 'Gate: handed back',
    missing: 'Before it goes back:',
    clear: 'The report is issued.',
    verb: 'It is handed back',
    passed: 'It was handed back',
  },
}

/** Gate is the point the job comes to next, with what is missing at it; those that were passed stand above. */
export function Gate({ view }: { view: View }) {
  const passed = (view.job.job.gates ?? []).filter((g) => g.name in gates)
  const next = comesTo(view)
  return (
    <div id="gate" className="flex flex-col gap-2">
      {passed.map((g) => (
        <p key={g.name} className="flex items-center gap-2 text-secondary">
          <Unplug size={18} aria-hidden className="shrink-0" />
          <span>
            {gates[g.name as GateName].passed} on {time(g.at)}.
            {g.why && ` Missing: ${g.missing?.join('; ') || 'something'}. Because: ${g.why}`}
            {g.old_drive && ` Old drive: ${g.old_drive}.`}
          </span>
        </p>
      ))}
      {next && <Standing key={next.name} view={view} name={next.name} lost={next.lost} />}
    </div>
  )
}

function comesTo(view: View): { name: GateName; lost: Schemas['Lost'][] } | null {
  switch (view.here) {
    case 'then':
    case 'old-drive-out':
      return { name: 'old-drive-out', lost: view.lost }
    case 'now':
      return { name: 'measured-again', lost: view.again }
    case 'compare':
      return { name: 'handed-back', lost: view.back }
  }
  return null
}

function Standing({ view, name, lost }: { view: View; name: GateName; lost: Schemas['Lost'][] }) {
  const pass = usePassGate(view.id)
  const [why, setWhy] = useState('')
  const [drive, setDrive] = useState<string>()
  const words = gates[name]
  const last = name === 'handed-back'
  return (
    <section aria-labelledby="gate-title" className="border-x-8 border-base-content bg-base-200 p-4 md:p-5">
      <h2 id="gate-title" className="flex items-center gap-2 text-xl font-bold">
        <Unplug size={22} aria-hidden /> {words.title}
      </h2>
      {lost.length > 0 ? (
        <>
          <p className="mt-1">{words.missing}</p>
          <ul className="mt-2 ml-5 list-disc font-semibold">
            {lost.map((l) => (
              <li key={l.test + l.what}>{l.what}</li>
            ))}
          </ul>
        </>
      ) : (
        <p className="mt-1">{words.clear}</p>
      )}
      <form
        className="mt-4 flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault()
          pass.run({ gate: name, why, old_drive: drive })
        }}
      >
        {last && (
          <Choice
            label="What becomes of the old drive"
            value={drive}
            options={[
              { value: 'returned', label: 'Returned' },
              { value: 'kept', label: 'Kept here' },
              { value: 'destroyed', label: 'Destroyed' },
            ]}
            onChange={setDrive}
          />
        )}
        <div className="flex flex-wrap items-end gap-2">
          {lost.length > 0 && (
            <label className="flex-1 basis-72 text-sm font-semibold">
              Reason for going ahead (goes into the report’s notes)
              <input className="input mt-1 w-full" value={why} maxLength={500} onChange={(e) => setWhy(e.target.value)} />
            </label>
          )}
          <button
            className={`btn ${lost.length > 0 ? '' : 'btn-primary'}`}
            disabled={pass.isPending || (lost.length > 0 && why.trim() === '') || (last && !drive)}
          >
            {words.verb}
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
