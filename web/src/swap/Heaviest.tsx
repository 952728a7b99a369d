import type { View } from '../api/client'
import { useSwap, useWeigh } from './queries'
import { setupAs } from '../job/view'
import { useProbeOn } from '../probe/probe'
import { CommandButton } from '../ui/CommandButton'
import { Fold } from '../ui/Fold'
import { partSize, time } from '../ui/format'
import { Refusal } from '../ui/parts'

/** Heaviest are the folders of the old drive that hold the most: what could move elsewhere where the new drive is smaller, and what to copy first where the old one fails. */
export function Heaviest({ view }: { view: View }) {
  const swap = useSwap(view.id)
  const then = setupAs(view, 'then')
  const probe = useProbeOn(view, then?.id ?? '')
  const weigh = useWeigh(view.id)
  const h = swap.data?.heaviest
  const fits = swap.data?.fit?.ways.some((w) => w.layout.fits) ?? true
  const failing = swap.data?.failing
  if (!h && !probe && !failing) return null
  return (
    <Fold
      title={failing ? 'Copy first, in this order' : 'Largest folders of the old drive'}
      opened={(!fits && Boolean(h)) || Boolean(failing)}
      status={h ? (fits ? `as of ${time(h.at)}` : 'some of it has to move elsewhere first') : 'not checked'}
      tone={fits ? 'text-secondary' : 'font-semibold text-warning'}
    >
      {failing && <p className="font-semibold text-error">{failing} Copy these before anything else. Irreplaceable files come first. Ask the owner.</p>}
      {h?.refused && <p className="pt-1 text-warning">{h.refused}</p>}
      {h && h.largest.length > 0 && (
        <table className="mt-1 w-full max-w-2xl">
          <thead className="sr-only">
            <tr>
              <th>Folder</th>
              <th>Holds</th>
              <th>Files</th>
            </tr>
          </thead>
          <tbody>
            {h.largest.map((f) => (
              <tr key={f.path} className="border-b border-base-300">
                <td className="py-1 break-all">{f.path}</td>
                <td className="py-1 pl-4 text-right whitespace-nowrap tabular-nums">{partSize(f.bytes)}</td>
                <td className="py-1 pl-4 text-right whitespace-nowrap text-secondary tabular-nums">{f.files.toLocaleString('en')} files</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {probe?.away && <p className="text-warning">{probe.name} is away.</p>}
      {probe && !probe.away && (
        <CommandButton of={weigh} size="sm" className="mt-2" onClick={() => weigh.run(probe.id)}>
          {h ? 'Search again' : 'Find large folders'}
        </CommandButton>
      )}
      {weigh.error && <Refusal error={weigh.error} />}
    </Fold>
  )
}
