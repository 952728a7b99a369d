import { Link } from 'react-router'
import type { View } from '../api/client'
import { useProbes } from '../probe/queries'
import { pagePath } from '../job/paths'
import { SideMark } from '../ui/parts'
import { whichIsWhich, type Told } from './which'

/** Which sets source and target side by side before anything is written to either. */
export function Which({ view }: { view: View }) {
  const probes = useProbes(view.id)
  const { drives, warnings } = whichIsWhich(view, probes.data ?? [])
  if (drives.length < 2) return null
  return (
    <section aria-labelledby="which" className="border-t border-base-300 pt-2">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 id="which" className="mr-auto text-xl font-bold">
          Which drive is which
        </h2>
        <Link className="btn btn-sm" to={`${pagePath(view.id, 'swap')}/sheet`}>
          Print labels
        </Link>
      </div>
      {warnings.map((w) => (
        <p key={w} role="alert" className="mt-2 border-l-4 border-warning bg-base-200 px-3 py-2 text-lg font-bold">
          {w}
        </p>
      ))}
      <div className="mt-2 grid gap-3 sm:grid-cols-2">
        {drives.map((d) => (
          <Side key={d.side} told={d} />
        ))}
      </div>
    </section>
  )
}

function Side({ told }: { told: Told }) {
  return (
    <div className={`border-l-4 pl-3 ${told.side === 'then' ? 'border-then' : 'border-now'}`}>
      <p className="flex flex-wrap items-center gap-x-2">
        <SideMark side={told.side} /> <strong>{told.side === 'then' ? 'Old, read from' : 'New, written to'}</strong> <span className="font-mono">label {told.code}</span>
      </p>
      <p>{[told.name, told.model, told.port].filter(Boolean).join(', ')}</p>
      <p className="text-sm text-secondary">
        {told.guessed && 'Identified by its capacity: compare the labels. '}
        {told.mark ? `Serial fingerprint ${told.mark}. ` : 'Its serial number is not known. '}
        {told.contents === undefined
          ? 'The probe does not see it now.'
          : told.contents.length === 0
            ? 'Empty: no partitions.'
            : (told.empty ? 'Empty but for a file system: ' : '') + told.contents.join(' · ')}
      </p>
    </div>
  )
}
