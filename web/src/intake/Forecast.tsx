import { useState } from 'react'
import { Link } from 'react-router'
import type { Schemas, View } from '../api/client'
import { useForecast } from '../job/queries'
import { driveKinds, testOf } from '../job/view'
import { Fold } from '../ui/Fold'
import { Query } from '../ui/parts'
import { causes, range, record, unsaid, years } from './forecast'

type Told = Schemas['Forecast']
type Candidate = Told['candidates'][number]

/** Forecast shows the expected effect of a new drive, from the shop's finished jobs. */
export function Forecast({ view }: { view: View }) {
  const [seen, setSeen] = useState(false)
  const forecast = useForecast(view.id, seen)
  return (
    <Fold title="What a new drive would bring" status="from this shop’s finished jobs" onOpen={() => setSeen(true)}>
      {seen && (
        <Query of={forecast} what="the forecast">
          {(f) => <Said view={view} of={f} />}
        </Query>
      )}
    </Fold>
  )
}

/** Said is the forecast for each candidate. */
export function Said({ view, of: f }: { view: View; of: Told }) {
  const told = f.candidates.filter((c) => c.waits.length > 0)
  return (
    <>
      {causes(f.other_cause).map((c) => (
        <p key={c} className="border-l-4 border-warning pl-3 text-lg font-semibold">
          {c}
        </p>
      ))}
      {told.length === 0 && <p>No forecast yet: it needs at least five finished jobs with the same kinds of drives.</p>}
      {told.map((c) => (
        <One key={c.new} view={view} of={c} />
      ))}
      {told.length > 0 &&
        unsaid(f).map((u) => (
          <p key={u.why} className="pt-2 text-secondary">
            No forecast for {u.tests.map((t) => testOf(view, t)?.name ?? t).join(', ')}: {u.why}.
          </p>
        ))}
      <p className="pt-2 text-secondary">
        {record(f.record)}{' '}
        <Link className="link" to="/known">
          What we know
        </Link>
      </p>
    </>
  )
}

function One({ view, of: c }: { view: View; of: Candidate }) {
  const name = driveKinds[c.new as keyof typeof driveKinds] ?? c.new
  return (
    <div className="pt-3">
      <h3 className="text-lg font-bold">
        {name} {c.price && <span className="font-normal text-secondary">{`${c.price.amount} ${c.price.currency}`}</span>}
      </h3>
      <ul>
        {c.waits.map((w) => (
          <li key={w.test} className="flex flex-wrap gap-x-4 border-b border-base-300 py-1">
            <span className="flex-1 basis-60">{testOf(view, w.test)?.name ?? w.test}</span>
            <strong>{range(w)}</strong>
            <span className="basis-40 text-sm text-secondary">
              from {w.jobs} jobs{c.hardly_felt.includes(w.test) && ', hardly felt'}
            </span>
          </li>
        ))}
      </ul>
      {years(c) && <p className="pt-1 font-semibold">{years(c)}</p>}
    </div>
  )
}
