import { useState } from 'react'
import type { View } from '../api/client'
import { useNoteWork } from '../api/queries'
import { Choice } from '../ui/Choice'
import { time } from '../ui/format'
import { Refusal } from '../ui/parts'

const kinds = ['cleaning', 'memory', 'cooling', 'firmware', 'drivers', 'tidying', 'other'] as const

/** Work is other work of the visit, noted when it is done, because it can change the figures as well. */
export function Work({ view }: { view: View }) {
  const note = useNoteWork(view.id)
  const [what, setWhat] = useState<(typeof kinds)[number]>()
  const [text, setText] = useState('')
  const [memory, setMemory] = useState('')
  const work = view.job.job.work ?? []
  return (
    <section aria-labelledby="work">
      <h2 id="work" className="text-xl font-bold">
        Other work
      </h2>
      {work.length === 0 && <p className="text-secondary">None noted. What is cleaned, cooled or updated between Then and Now changes the figures as well.</p>}
      <ul>
        {work.map((w) => (
          <li key={w.at + w.what} className="border-b border-base-300 py-1.5">
            <span className="font-semibold">{w.what}</span> {w.note} <span className="text-secondary">{time(w.at)}</span>
          </li>
        ))}
      </ul>
      <form
        className="flex flex-col gap-2 pt-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (what)
            note.run(
              { what, note: text, ...(what === 'memory' && Number(memory) > 0 ? { fitted: { memory_bytes: Math.round(Number(memory.replace(',', '.')) * 2 ** 30) } } : {}) },
              () => {
                setText('')
                setMemory('')
                setWhat(undefined)
              },
            )
        }}
      >
        <Choice label="Just done" value={what} options={kinds.map((value) => ({ value, label: value }))} onChange={setWhat} />
        {what && (
          <div className="flex flex-wrap gap-2">
            <input className="input input-sm flex-1" aria-label="What of it" placeholder="What of it" maxLength={500} value={text} onChange={(e) => setText(e.target.value)} />
            {what === 'memory' && (
              <label className="flex items-center gap-2">
                <input className="input input-sm w-20" inputMode="decimal" aria-label="Memory fitted now, GiB" value={memory} onChange={(e) => setMemory(e.target.value)} /> GiB now
              </label>
            )}
            <button className="btn btn-sm btn-primary">Note it</button>
          </div>
        )}
        {note.error && <Refusal error={note.error} />}
      </form>
    </section>
  )
}
