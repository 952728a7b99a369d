import { useState } from 'react'
import type { Setup, View } from '../api/client'
import { useTakeSitting } from './queries'
import { conditionsInWords, setupName, whereWords } from '../job/view'
import { time } from '../ui/format'
import { CommandButton } from '../ui/CommandButton'
import { FileButton } from '../ui/FileButton'
import { Refusal } from '../ui/parts'
import { Pictures } from '../ui/Pictures'
import { Purpose } from './Purpose'

/** Sittings lists a setup's stretches of measuring with what was so in each, and takes in a probe's file as one more. */
export function Sittings({ view, setup }: { view: View; setup: Setup }) {
  const take = useTakeSitting(view.id)
  const [file, setFile] = useState<File>()
  const list = view.job.sittings.filter((s) => s.setup === setup.id)
  return (
    <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
      {list.length > 0 && (
        <details className="flex-1 basis-80">
          <summary className="cursor-pointer text-secondary">{list.length === 1 ? 'One session' : `${list.length} sessions`}</summary>
          <ul>
            {list.map((s) => (
              <li key={s.id} className="border-b border-base-300 py-1.5">
                <span className="text-secondary">{s.started ? time(s.started) : 'time not noted'}</span> {conditionsInWords(s.conditions).join(', ') || 'nothing noted'}
                {s.follow_up && <span className="font-semibold"> · from the customer, after hand-back</span>}
                {s.job && <span className="font-semibold"> · from job {s.job}</span>}
                {s.where && <span className="font-semibold"> · {whereWords(s.where)}</span>}
                <Pictures job={view.id} of={{ sitting: s.id }} photos={s.photos} label={`the session of ${s.started ? time(s.started) : setupName(setup)}`} />
                <Purpose view={view} sitting={s} />
              </li>
            ))}
          </ul>
        </details>
      )}
      <FileButton
        className="btn-ghost ml-auto"
        label={`Session file for ${setupName(setup)}`}
        accept=".json,application/json"
        onFile={(chosen) => {
          setFile(chosen)
          take.run({ setup: setup.id, file: chosen })
        }}
      >
        Import a probe file
      </FileButton>
      {take.error && (
        <div className="basis-full">
          <Refusal error={take.error} />
          {take.error.doubtful && file && (
            <CommandButton of={take} size="sm" className="mt-2" onClick={() => take.run({ setup: setup.id, file, sure: true })}>
              Import it as another computer’s
            </CommandButton>
          )}
        </div>
      )}
    </div>
  )
}
