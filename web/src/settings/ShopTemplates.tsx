import { useDropTemplate, useTemplates } from '../plan/queries'
import { Contents } from '../plan/Templates'
import { CommandButton } from '../ui/CommandButton'
import { Query, Refusal } from '../ui/parts'

/** ShopTemplates lists the templates of the shop's own. */
export function ShopTemplates() {
  const templates = useTemplates()
  const drop = useDropTemplate()
  return (
    <section aria-labelledby="own-templates">
      <h2 id="own-templates" className="text-xl font-bold">
        Templates of the shop
      </h2>
      <Query of={templates} what="the templates">
        {(list) => {
          const own = list.filter((t) => t.shop)
          if (own.length === 0) return <p className="text-secondary">None yet. A job’s plan, with its steps, can be saved as one on its intake page.</p>
          return (
            <ul>
              {own.map((t) => (
                <li key={t.id} className="flex flex-wrap items-start gap-x-4 border-b border-base-300 py-2">
                  <Contents of={t} />
                  <CommandButton of={drop} size="sm" aria-label={`Delete the template ${t.name}`} onClick={() => drop.run(t.id)}>
                    Delete
                  </CommandButton>
                </li>
              ))}
            </ul>
          )
        }}
      </Query>
      {drop.error && <Refusal error={drop.error} />}
    </section>
  )
}
