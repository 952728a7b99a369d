import { useState } from 'react'
import type { View } from '../api/client'
import { useNoteWork } from '../api/queries'
import { Choice } from '../ui/Choice'
import { Field } from '../ui/Field'
import { time } from '../ui/format'
import { Refusal } from '../ui/parts'

const kinds = ['cleaning', 'memory', 'cooling', 'firmware', 'drivers', 'tidying', 'other'] as const

/** Work is other work of the visit, noted when it is done, because it can change the figures as well. */
export function Work({ view }: { view: View }) {
  const note = useNoteWork(view.id)
  const [what, setWhat] = useState<(typeof kinds)[number]>()
  const [text, setText] = useState('')
  const [fitted, setFitted] = useState({ memory: '', processor: '', graphics: '' })
  const work = view.job.job.work ?? []
  const fittedField = (key: keyof typeof fitted, label: string, unit?: string) => (
    <Field className="w-56" label={label} unit={unit} inputMode={unit ? 'decimal' : undefined} maxLength={200} value={fitted[key]} onChange={(e) => setFitted({ ...fitted, [key]: e.target.value })} />
  )
  return (
    <section aria-labelledby="work">
      <h2 id="work" className="text-xl font-bold">
        Other work
      </h2>
      {work.length === 0 && <p className="text-secondary">None yet. Cleaning, cooling or updates between Then and Now change the figures as well.</p>}
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
          if (!what) return
          const gib = Number(fitted.memory.replace(',', '.'))
          const since = {
            ...(gib > 0 && { memory_bytes: Math.round(gib * 2 ** 30) }),
            ...(fitted.processor.trim() && { processor: fitted.processor.trim() }),
            ...(fitted.graphics.trim() && { graphics: fitted.graphics.trim() }),
          }
          note.run({ what, note: text, ...(Object.keys(since).length > 0 && { fitted: since }) }, () => {
            setText('')
            setFitted({ memory: '', processor: '', graphics: '' })
            setWhat(undefined)
          })
        }}
      >
        <Choice label="Just done" value={what} options={kinds.map((value) => ({ value, label: value }))} onChange={setWhat} />
        {what && (
          <div className="flex flex-wrap items-end gap-2">
            <input className="input flex-1" aria-label="Note" placeholder="Note" maxLength={500} value={text} onChange={(e) => setText(e.target.value)} />
            {what === 'memory' && fittedField('memory', 'Memory fitted now', 'GiB')}
            {(what === 'other' || what === 'cooling') && fittedField('processor', 'Processor fitted now, if another')}
            {what === 'other' && fittedField('graphics', 'Graphics fitted now, if another')}
            <button className="btn btn-primary">Save</button>
          </div>
        )}
        {note.error && <Refusal error={note.error} />}
      </form>
    </section>
  )
}
