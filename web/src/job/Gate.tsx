import { Unplug } from 'lucide-react'
import { useState } from 'react'
import type { View } from '../api/client'
import { usePassGate } from '../api/queries'
import { time } from '../ui/format'
import { Refusal } from '../ui/parts'

/** Gate is the point of no return: the old drive comes out. It says what would be lost for good. */
export function Gate({ view }: { view: View }) {
  const pass = usePassGate(view.id)
  const [why, setWhy] = useState('')
  const passed = view.job.job.gates?.find((g) => g.name === 'old-drive-out')
  if (passed) {
    return (
      <p id="gate" className="flex items-center gap-2 text-secondary">
        <Unplug size={18} aria-hidden /> The old drive came out on {time(passed.at)}.{passed.why && ` Missing, because: ${passed.why}`}
      </p>
    )
  }
  const lost = view.lost
  return (
    <section id="gate" aria-labelledby="gate-title" className="border-x-8 border-base-content bg-base-200 p-4 md:p-5">
      <h2 id="gate-title" className="flex items-center gap-2 text-xl font-bold">
        <Unplug size={22} aria-hidden /> Gate: the old drive comes out
      </h2>
      {lost.length > 0 ? (
        <>
          <p className="mt-1">Once it is out, this can never be measured on it:</p>
          <ul className="mt-2 ml-5 list-disc font-semibold">
            {lost.map((l) => (
              <li key={l.test + l.what}>{l.what}</li>
            ))}
          </ul>
        </>
      ) : (
        <p className="mt-1">Everything in the plan was measured on it. Is the backup made?</p>
      )}
      <form
        className="mt-4 flex flex-wrap items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          pass.mutate({ gate: 'old-drive-out', why })
        }}
      >
        {lost.length > 0 && (
          <label className="flex-1 basis-72 text-sm font-semibold">
            Why it comes out all the same (this goes into the report’s notes)
            <input className="input mt-1 w-full" value={why} maxLength={500} onChange={(e) => setWhy(e.target.value)} />
          </label>
        )}
        <button className={`btn ${lost.length > 0 ? '' : 'btn-primary'}`} disabled={pass.isPending || (lost.length > 0 && why.trim() === '')}>
          The old drive is out
        </button>
      </form>
      {pass.error && (
        <div className="mt-3">
          <Refusal error={pass.error} />
        </div>
      )}
    </section>
  )
}
