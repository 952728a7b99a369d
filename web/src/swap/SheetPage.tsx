import { Printer } from 'lucide-react'
import { Link, useSearchParams } from 'react-router'
import { useOwnLayout, useSwap } from './queries'
import { useProbes } from '../probe/queries'
import { useView } from '../job/JobFrame'
import { pagePath } from '../job/paths'
import { Heading } from '../ui/Heading'
import { SideMark } from '../ui/parts'
import { Drawing, ways } from './Fit'
import { whichIsWhich, type Told } from './which'

/** SheetPage is what is printed for the bench: a label for each drive, and how the old one's partitions go onto the new one. */
export function SheetPage() {
  const view = useView()
  const swap = useSwap(view.id)
  const probes = useProbes(view.id)
  const [params] = useSearchParams()
  const as = params.get('as') ?? 'system'
  const { drives, warnings } = whichIsWhich(view, probes.data ?? [])
  const fit = swap.data?.fit
  const own = useOwnLayout(view.id, params.get('sizes') ?? '', as === 'own')
  const way = as === 'own' ? own.data : (fit?.ways.find((w) => w.as === as) ?? fit?.ways[0])
  return (
    <div className="flex flex-col gap-5">
      <div className="no-print flex flex-wrap items-baseline gap-x-4">
        <Heading title={`Labels and layout, ${view.job.job.number}`}>Labels and layout</Heading>
        <Link className="btn btn-sm ml-auto" to={pagePath(view.id, 'swap')}>
          Back to the swap
        </Link>
        <button type="button" className="btn btn-primary" onClick={() => window.print()}>
          <Printer size={18} aria-hidden /> Print
        </button>
      </div>
      <div className="grid gap-6 sm:grid-cols-2 print:grid-cols-2">
        {drives.map((d) => (
          <Label key={d.side} told={d} number={view.job.job.number} customer={view.job.job.customer?.name ?? ''} />
        ))}
      </div>
      {warnings.map((w) => (
        <p key={w} className="border-2 border-base-content px-3 py-2 font-bold">
          {w}
        </p>
      ))}
      {fit && way && (
        <section aria-labelledby="layout" className="break-inside-avoid">
          <h2 id="layout" className="text-xl font-bold">
            Layout of the new drive: {(ways[way.as] ?? way.as).toLowerCase()}
          </h2>
          <Drawing fit={fit} layout={way.layout} table />
        </section>
      )}
      {!fit && swap.data?.missing && <p>{swap.data.missing}</p>}
    </div>
  )
}

/** Label is cut out and stuck on a drive. */
function Label({ told, number, customer }: { told: Told; number: string; customer: string }) {
  const old = told.side === 'then'
  return (
    <section className="break-inside-avoid border-2 border-dashed border-base-content p-4" aria-label={`Label ${told.code}`}>
      <p className="flex items-center gap-3 text-5xl leading-none font-bold">
        <SideMark side={told.side} /> {told.code}
      </p>
      <p className="pt-2 text-lg font-bold">{old ? 'Read from this one. Do not write to it.' : 'Write to this one.'}</p>
      <p>
        {told.name}
        {told.model && `, ${told.model}`}
      </p>
      <p>{told.mark ? `Mark ${told.mark}` : 'Serial number: ______________'}</p>
      <p className="text-secondary" dir="auto">
        Job {number}
        {customer && `, ${customer}`}
      </p>
    </section>
  )
}
