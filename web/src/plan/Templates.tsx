import { useState } from 'react'
import type { Template, View } from '../api/client'
import { useDropTemplate, useTemplates, useUndoTemplate, useUseTemplate } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { Query, Refusal } from '../ui/parts'
import { Undo } from '../ui/Undo'

/** Templates shows from what the plan was made, and others with what they contain before they are chosen. */
export function Templates({ view }: { view: View }) {
  const templates = useTemplates()
  const [open, setOpen] = useState(false)
  const use = useUseTemplate(view.id)
  const undo = useUndoTemplate(view.id)
  const drop = useDropTemplate()
  const [chosen, setChosen] = useState('')
  return (
    <Query of={templates} what="the templates">
      {(list) => (
        <div>
          <p className="flex flex-wrap items-center gap-3">
            From the template “{list.find((t) => t.id === view.job.plan.template)?.name ?? 'of its own'}”
            <button type="button" className="btn btn-sm" aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? 'Close templates' : 'Other templates'}
            </button>
          </p>
          {chosen && <Undo what={`The plan is now that of “${chosen}”. Tests that have runs stayed.`} onUndo={() => undo.run(undefined, () => setChosen(''))} onGone={() => setChosen('')} />}
          {(use.error ?? undo.error ?? drop.error) && <Refusal error={use.error ?? undo.error ?? drop.error} />}
          {open && (
            <ul className="sheet mt-2 divide-y divide-base-300 px-4">
              {list.map((t) => (
                <li key={t.id} className="flex flex-wrap items-start gap-x-4 gap-y-1 py-2">
                  <Contents of={t} />
                  {t.shop && (
                    <CommandButton of={drop} size="sm" tone="ghost" aria-label={`Delete the template ${t.name}`} onClick={() => drop.run(t.id)}>
                      Delete
                    </CommandButton>
                  )}
                  <CommandButton
                    of={use}
                    size="sm"
                    disabled={view.job.plan.template === t.id}
                    aria-label={`Use ${t.name}`}
                    onClick={() =>
                      use.run(t.id, () => {
                        setChosen(t.name)
                        setOpen(false)
                      })
                    }
                  >
                    {view.job.plan.template === t.id ? 'In use' : 'Use'}
                  </CommandButton>
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
    </Query>
  )
}

/** Contents is what a template is for and what it contains. */
export function Contents({ of }: { of: Template }) {
  return (
    <div className="min-w-0 flex-1 basis-72">
      <p>
        <strong>{of.name}</strong> <span className="text-secondary">{of.about}</span>
      </p>
      <p className="text-sm text-secondary">
        {of.tests.map((t) => t.name).join(' · ')}
        {of.sittings > 1 && ` · in ${of.sittings} sessions`}
      </p>
    </div>
  )
}
