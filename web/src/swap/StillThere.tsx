import type { View } from '../api/client'
import { useProbes } from '../probe/queries'
import { useUnpassGate } from '../job/queries'
import { comesOut } from '../job/relation'
import { driveOf, setupAs } from '../job/view'
import { CommandButton } from '../ui/CommandButton'
import { Refusal } from '../ui/parts'
import { stillThere } from './which'

/** StillThere asks where the old drive is said to be out and the probe still sees it. */
export function StillThere({ view }: { view: View }) {
  const out = view.job.job.gates?.at(-1)?.name === 'old-drive-out' && comesOut(view)
  const probes = useProbes(view.id)
  const unpass = useUnpassGate(view.id)
  if (!out || !stillThere(driveOf(view, setupAs(view, 'then')), probes.data ?? [])) return null
  return (
    <div role="alert" className="border-l-4 border-warning bg-base-200 px-3 py-2">
      <p className="text-lg font-bold">The probe still sees the old drive. Is it out?</p>
      <p>If you attached it to copy its files, go on. If it is still inside, undo the checkpoint.</p>
      <CommandButton of={unpass} size="sm" className="mt-2" onClick={() => unpass.run('old-drive-out')}>
        It is still inside
      </CommandButton>
      {unpass.error && <Refusal error={unpass.error} />}
    </div>
  )
}
