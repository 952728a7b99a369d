import { zodResolver } from '@hookform/resolvers/zod'
import { Search } from 'lucide-react'
import { useDeferredValue, useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { Entry, View } from '../api/client'
import { useAddTest, useCatalogue } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { minutes } from '../ui/format'
import { Query, Refusal } from '../ui/parts'
import { found, takes } from './catalogue'
import { OwnTest } from './OwnTest'

const groups: Record<string, string> = { starts: 'Starts', programs: 'Programs', games: 'Games', files: 'Files', drive: 'The drive', controls: 'Controls', notes: 'Notes' }

/** AddTest finds a test in the catalogue, with what it takes and tells, and puts it into the plan. */
export function AddTest({ view }: { view: View }) {
  const catalogue = useCatalogue()
  const add = useAddTest(view.id)
  const [open, setOpen] = useState(false)
  const [words, setWords] = useState('')
  const q = useDeferredValue(words)
  if (!open) {
    return (
      <button type="button" className="btn" onClick={() => setOpen(true)}>
        Add a test
      </button>
    )
  }
  return (
    <section aria-labelledby="add-test" className="sheet flex basis-full flex-col gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h3 id="add-test" className="font-bold">
          Add a test
        </h3>
        <label className="input flex-1 basis-64">
          <Search size={16} aria-hidden />
          <span className="sr-only">Search the catalogue</span>
          <input autoFocus type="search" placeholder="start, save, copy, noise …" value={words} onChange={(e) => setWords(e.target.value)} />
        </label>
        <button type="button" className="btn btn-sm" onClick={() => setOpen(false)}>
          Close
        </button>
      </div>
      {add.error && <Refusal error={add.error} />}
      <Query of={catalogue} what="the catalogue">
        {(entries) => (
          <ul className="max-h-96 divide-y divide-base-300 overflow-y-auto">
            {found(entries, q, groups).map((e) => (
              <Offer key={e.test.id} entry={e} view={view} of={add} onAdd={(content) => add.run({ id: e.test.id, ...(content && { content }) })} />
            ))}
          </ul>
        )}
      </Query>
      <OwnTest onAdd={(t, done) => add.run(t, done)} />
    </section>
  )
}

const contentSchema = z.object({ content: z.string().trim().max(300) })

/** Offer is a test of the catalogue. One that is in the plan already can go in once more, with another program, game, document or folder. */
function Offer({ entry, view, of, onAdd }: { entry: Entry; view: View; of: { isPending: boolean }; onAdd: (content: string) => void }) {
  const { register, handleSubmit, control } = useForm({ resolver: zodResolver(contentSchema), defaultValues: { content: '' } })
  const content = useWatch({ control, name: 'content' }).trim()
  const { test } = entry
  const inPlan = view.job.tests.some((t) => t.id === test.id && !t.retired)
  const again = test.kind === 'timed' || test.kind === 'file'
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1 py-2">
      <div className="min-w-0 flex-1 basis-72">
        <p>
          <strong>{test.name}</strong> <span className="text-secondary">{groups[entry.group]}</span>
        </p>
        <p className="text-sm text-secondary">{[takes(entry, minutes), entry.shows, entry.needs.length > 0 && `You need: ${entry.needs.join(', ')}.`].filter(Boolean).join(' ')}</p>
      </div>
      <form className="flex flex-wrap gap-x-4 gap-y-1" onSubmit={(e) => void handleSubmit((f) => onAdd(f.content))(e)}>
        {again && (
          <input
            className="input input-sm w-44"
            aria-label={`Which program, game, document or folder: ${test.name}`}
            placeholder={inPlan ? 'another one: its name' : 'its name, if it has one'}
            maxLength={300}
            {...register('content')}
          />
        )}
        <CommandButton of={of} size="sm" disabled={inPlan && (!again || content === '')} aria-label={`Add ${test.name}`} type="submit">
          {inPlan && !content ? 'In the plan' : 'Add'}
        </CommandButton>
      </form>
    </li>
  )
}
