import { useState } from 'react'
import type { View } from '../api/client'
import { useAmendSitting, useSit, useTakeSitting } from '../api/queries'
import { time } from '../ui/format'
import { Refusal, SideMark, sideName } from '../ui/parts'
import { ConditionsForm } from './ConditionsForm'
import { conditionsInWords, setupName, setupOf, simulatedOn } from './view'

/** Sittings lists the stretches of measuring with what was so in each. */
export function Sittings({ view }: { view: View }) {
  const [editing, setEditing] = useState<string>()
  const amend = useAmendSitting(view.id)
  const sit = useSit(view.id)
  const take = useTakeSitting(view.id)
  return (
    <section aria-labelledby="sittings">
      <h2 id="sittings" className="mb-1 text-xl font-bold">
        Conditions
      </h2>
      {view.job.sittings.length === 0 && (
        <p className="text-secondary">Nothing was measured yet. The conditions are asked for with the first test.</p>
      )}
      <ul>
        {view.job.sittings.map((s) => {
          const setup = setupOf(view, s.setup)
          const said = conditionsInWords(s.conditions)
          return (
            <li key={s.id} className="border-b border-base-300 py-2">
              <div className="flex flex-wrap items-baseline gap-x-3">
                <span className="flex items-center gap-1.5 font-semibold">
                  <SideMark side={setup?.role === 'then' ? 'then' : 'now'} /> {sideName(setup?.role ?? '')}
                </span>
                {s.started && <span className="text-secondary">{time(s.started)}</span>}
                <span className="flex-1">{said.length > 0 ? said.join(', ') : 'nothing noted'}</span>
                <button type="button" className="link text-sm" onClick={() => setEditing(editing === s.id ? undefined : s.id)}>
                  Change
                </button>
              </div>
              {editing === s.id && (
                <ConditionsForm
                  start={s.conditions}
                  verb="Save"
                  error={amend.error}
                  busy={amend.isPending}
                  onDone={(conditions) => amend.run({ sitting: s.id, conditions }, () => setEditing(undefined))}
                />
              )}
            </li>
          )
        })}
      </ul>
      <div className="mt-2 flex flex-wrap gap-2">
        {view.job.setups
          .filter((s) => view.job.sittings.some((x) => x.setup === s.id))
          .map((s) => (
            <button key={s.id} type="button" className="btn btn-ghost btn-sm" onClick={() => setEditing(editing === `new-${s.id}` ? undefined : `new-${s.id}`)}>
              Another sitting on {sideName(s.role)}
            </button>
          ))}
      </div>
      <div className="mt-1 flex flex-wrap gap-2">
        {view.job.setups.map((s) => (
          <label key={s.id} className="btn btn-ghost btn-sm has-focus-visible:outline-3">
            Import a probe file for {setupName(s)}
            <input
              type="file"
              accept=".json,application/json"
              className="sr-only"
              aria-label={`Sitting file for ${setupName(s)}`}
              onChange={(e) => {
                const chosen = e.target.files?.[0]
                e.target.value = ''
                if (chosen) take.run({ setup: s.id, file: chosen })
              }}
            />
          </label>
        ))}
      </div>
      {take.error && <Refusal error={take.error} />}
      {view.job.setups.map(
        (s) =>
          editing === `new-${s.id}` && (
            <ConditionsForm
              key={s.id}
              here={!simulatedOn(view, s)}
              verb={`Begin on ${sideName(s.role)}`}
              error={sit.error}
              busy={sit.isPending}
              onDone={(conditions) => sit.run({ setup: s.id, conditions }, () => setEditing(undefined))}
            />
          ),
      )}
    </section>
  )
}
