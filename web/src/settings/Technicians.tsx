import { Link } from 'react-router'
import { useTechnicians } from '../timer/queries'
import { Query } from '../ui/parts'

/** Technicians lists who times here, with how much their own reaction spreads. */
export function Technicians() {
  const technicians = useTechnicians()
  return (
    <section aria-labelledby="technicians">
      <h2 id="technicians" className="text-xl font-bold">
        Technicians
      </h2>
      <Query of={technicians} what="the technicians">
        {(list) =>
          list.length === 0 ? (
            <p className="text-secondary">Nobody has measured their reaction yet. The default spread of 0.20 s is used.</p>
          ) : (
            <ul>
              {list.map((t) => (
                <li key={t.name} className="flex flex-wrap gap-x-4 border-b border-base-300 py-1.5">
                  <span className="flex-1 basis-40 font-semibold">{t.name}</span>
                  <span>reaction spreads by {t.spread_s.toFixed(3)} s</span>
                </li>
              ))}
            </ul>
          )
        }
      </Query>
      <Link className="btn mt-2" to="/reaction?back=/settings">
        Measure a reaction
      </Link>
    </section>
  )
}
