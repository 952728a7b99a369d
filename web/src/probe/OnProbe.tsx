import type { Probe, Schemas } from '../api/client'
import { conditionsInWords } from '../job/view'
import { Refusal } from '../ui/parts'
import { DriveChoice, FolderOn } from './DriveChoice'
import { drivesOf } from './drives'

/** OnProbe says on which computer a round runs, and what there makes it doubtful now. */
export function OnProbe({
  probe,
  setup,
  mount,
  onMount,
  seen,
}: {
  probe: Probe
  setup: string
  mount: string
  onMount: (mount: string) => void
  seen: { data?: Schemas['Seen']; error: unknown; isLoading: boolean; refetch: () => unknown }
}) {
  const drives = drivesOf(probe)
  const at = mount || (probe.mounts[setup] ?? '')
  const own = drives.find((d) => d.volumes.some((v) => v.key === probe.mounts[setup]))
  return (
    <section aria-label="On the customer’s computer" className="flex flex-col gap-2">
      <p>
        Runs on <strong>{probe.name}</strong>.{probe.away && <span className="text-warning"> It is away: the round starts when it is back.</span>}
      </p>
      {own ? (
        <>
          <p>
            <strong>{own.name}</strong>, {own.says}
          </p>
          <FolderOn drive={own} value={at} onPick={onMount} />
        </>
      ) : (
        drives.length > 1 && <DriveChoice drives={drives} value={mount} onPick={onMount} />
      )}
      {seen.isLoading && (
        <p role="status" className="text-secondary">
          Checking what is running there …
        </p>
      )}
      {Boolean(seen.error) && <Refusal error={seen.error} again={() => void seen.refetch()} />}
      {seen.data && seen.data.doubts.length === 0 && <p className="text-secondary">Just now: {conditionsInWords(seen.data.conditions).join(', ')}.</p>}
      {seen.data && seen.data.doubts.length > 0 && (
        <div role="alert" className="rounded-box border-l-4 border-warning bg-base-200 p-4">
          <p className="font-semibold">{seen.data.doubts.join(' ')}</p>
          {seen.data.causes.length > 0 && <p>{seen.data.causes.join('; ')}</p>}
          <p className="mt-1">
            The results would be less certain.{' '}
            <button type="button" className="link" onClick={() => void seen.refetch()}>
              Check again
            </button>
          </p>
        </div>
      )}
    </section>
  )
}
