import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { useKnown } from './queries'
import { record } from '../intake/forecast'
import { driveKinds } from '../job/view'
import { figure } from '../ui/format'
import { Heading } from '../ui/Heading'
import { Empty, Query, Simulated } from '../ui/parts'
import { around, place, ticks, type Scale } from './scale'

type Class = Schemas['KnownClass']

/** least is how many jobs a range needs. */
const least = 5

/** KnownPage is what is known from the shop's finished jobs: how much faster each test became between two kinds of drive, and in which jobs. */
export function KnownPage() {
  const known = useKnown()
  return (
    <div className="flex flex-col gap-5 py-5">
      <div>
        <Heading title="What we know">What we know</Heading>
        <p className="text-secondary">What finished jobs show, by test and kinds of drive. Each mark is a job. Forecasts are based on them.</p>
      </div>
      <Query of={known} what="what is known" page>
        {(k) => (
          <>
            {k.real.length === 0 && k.simulated.length === 0 && <Empty title="No finished job to learn from yet." />}
            {k.real.length > 0 && <Classes of={k.real} said={record(k.record)} />}
            {k.simulated.length > 0 && (
              <section aria-label="From simulated jobs">
                <p>
                  <Simulated /> These jobs count only for simulated computers.
                </p>
                <Classes of={k.simulated} said={record(k.simulated_record)} />
              </section>
            )}
          </>
        )}
      </Query>
    </div>
  )
}

const kind = (k: string) => driveKinds[k as keyof typeof driveKinds] ?? k

function Classes({ of, said }: { of: Class[]; said: string }) {
  const enough = of.filter((c) => c.jobs.length >= least)
  const few = of.filter((c) => c.jobs.length < least)
  const scale = around(enough.flatMap((c) => c.jobs.map((j) => j.factor)))
  return (
    <>
      <p>{said}</p>
      <div aria-hidden className="relative mt-3 h-5 border-b border-base-content text-sm text-secondary">
        {ticks(scale).map((t) => (
          <span key={t} className="absolute -translate-x-1/2" style={{ left: `${place(scale, t) * 100}%` }}>
            {t}×
          </span>
        ))}
      </div>
      <ul>
        {enough.map((c) => (
          <One key={c.test + c.old + c.new} of={c} scale={scale} />
        ))}
      </ul>
      {few.length > 0 && (
        <p className="pt-3">
          Measure more often: {few.map((c) => `${c.name}, ${kind(c.old)} to ${kind(c.new)} (${c.jobs.length} of ${least} jobs)`).join('; ')}.
        </p>
      )}
    </>
  )
}

function One({ of: c, scale }: { of: Class; scale: Scale }) {
  const outliers = c.jobs.filter((j) => j.outlier)
  const at = (v: number) => `${place(scale, v) * 100}%`
  return (
    <li className="border-b border-base-300 py-2">
      <p className="flex flex-wrap items-baseline gap-x-4">
        <strong>{c.name}</strong>
        <span className="text-secondary">
          {kind(c.old)} to {kind(c.new)}, {c.jobs.length} jobs
        </span>
        {c.factor_low !== null && c.factor_high !== null && (
          <span className="ml-auto font-semibold">
            {figure(c.factor_low, '').trim()} to {figure(c.factor_high, '').trim()} times as fast
          </span>
        )}
      </p>
      <svg className="h-7 w-full" aria-hidden>
          {c.factor_low !== null && c.factor_high !== null && <line x1={at(c.factor_low)} x2={at(c.factor_high)} y1="14" y2="14" strokeWidth="14" className="stroke-base-300" />}
          {c.jobs.map((j, i) => (
            <circle key={i} cx={at(j.factor)} cy="14" r={j.outlier ? 5 : 4} className={j.outlier ? 'fill-none stroke-warning stroke-2' : 'fill-now opacity-70'} />
          ))}
      </svg>
      <p className="text-sm text-secondary">
        {c.wait_low !== null && c.wait_high !== null && `Takes ${figure(c.wait_low, 's')} to ${figure(c.wait_high, 's')} afterwards. `}
        {outliers.length > 0 && (
          <>
            Far from the others:{' '}
            {outliers.map((j, i) => (
              <span key={j.number}>
                {i > 0 && ', '}
                <Link className="link" to={`/jobs/${j.id}/compare`}>
                  {j.number}
                </Link>{' '}
                ({figure(j.factor, '').trim()}×)
              </span>
            ))}
            .
          </>
        )}
      </p>
      <details>
        <summary className="cursor-pointer text-sm">All {c.jobs.length} jobs</summary>
        <p className="text-sm">
          {c.jobs.map((j) => (
            <Link key={j.number} className="link mr-3" to={`/jobs/${j.id}/compare`}>
              {j.number}: {figure(j.factor, '').trim()}×
            </Link>
          ))}
        </p>
      </details>
    </li>
  )
}
