import { useState } from 'react'
import type { Schemas } from '../api/client'
import { Choice } from '../ui/Choice'
import { Field } from '../ui/Field'

type Kind = 'timed' | 'file' | 'note'

/** phasesFrom reads phases from a line: names between commas; one in brackets does not count. */
export function phasesFrom(line: string): Schemas['Phase'][] {
  return line
    .split(',')
    .map((p) => p.trim())
    .filter(Boolean)
    .map((p) => (/^\(.*\)$/.test(p) ? { id: '', name: p.slice(1, -1).trim(), counts: false } : { id: '', name: p }))
}

/** OwnTest makes up a test of the technician's own. */
export function OwnTest({ onAdd }: { onAdd: (t: Schemas['NewTest'], done: () => void) => void }) {
  const [kind, setKind] = useState<Kind>('timed')
  const [better, setBetter] = useState<'lower' | 'higher'>('lower')
  const [name, setName] = useState('')
  const [phases, setPhases] = useState('')
  const [unit, setUnit] = useState('')
  return (
    <details>
      <summary className="cursor-pointer font-bold">An own test</summary>
      <form
        className="flex flex-wrap items-end gap-3 pt-3"
        onSubmit={(e) => {
          e.preventDefault()
          onAdd({ kind, name, better, ...(kind === 'note' ? { unit } : kind === 'timed' ? { phases: phasesFrom(phases) } : {}) }, () => setName(''))
        }}
      >
        <Choice
          label="What it is"
          value={kind}
          options={[
            { value: 'timed', label: 'A wait, timed' },
            { value: 'file', label: 'Work on files, timed' },
            { value: 'note', label: 'A figure read off' },
          ]}
          onChange={setKind}
        />
        <Field className="w-64" label="Name" value={name} onChange={(e) => setName(e.target.value)} />
        {kind === 'timed' && (
          <Field
            className="w-96 max-w-full"
            label="Phases, if it has any"
            hint="With commas between; one in brackets does not count: to the window, (code), to the list"
            value={phases}
            onChange={(e) => setPhases(e.target.value)}
          />
        )}
        {kind === 'note' && (
          <>
            <Field className="w-28" label="Unit" value={unit} onChange={(e) => setUnit(e.target.value)} />
            <Choice
              label="Better is"
              value={better}
              options={[
                { value: 'lower', label: 'Lower' },
                { value: 'higher', label: 'Higher' },
              ]}
              onChange={setBetter}
            />
          </>
        )}
        <button className="btn" disabled={name.trim() === '' || (kind === 'note' && unit.trim() === '')}>
          Add
        </button>
      </form>
    </details>
  )
}
