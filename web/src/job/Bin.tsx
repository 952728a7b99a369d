import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import type { View } from '../api/client'
import { useBin, useDeleteForGood, useRestore } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { time } from '../ui/format'
import { Refusal } from '../ui/parts'

/** InTheBin stands over every page of a job that is in the bin: it can be restored, or deleted permanently, which alone asks first. */
export function InTheBin({ view }: { view: View }) {
  const restore = useRestore(view.id)
  const forGood = useDeleteForGood(view.id)
  const [asking, setAsking] = useState(false)
  const go = useNavigate()
  const since = view.job.job.binned
  if (!since) return null
  return (
    <div role="status" className="mb-4 flex flex-wrap items-center gap-3 border-l-4 border-warning pl-3">
      <p className="mr-auto font-semibold">This job is in the bin since {time(since)}.</p>
      <CommandButton of={restore} size="sm" tone="primary" onClick={() => restore.run(undefined)}>
        Restore
      </CommandButton>
      {asking ? (
        <>
          <span>Its runs, reports, photos and clips are deleted. This can’t be undone.</span>
          <CommandButton of={forGood} size="sm" onClick={() => forGood.run(undefined, () => void go('/?state=bin'))}>
            Delete for good
          </CommandButton>
          <button type="button" className="btn btn-sm" onClick={() => setAsking(false)}>
            Cancel
          </button>
        </>
      ) : (
        <button type="button" className="btn btn-sm" onClick={() => setAsking(true)}>
          Delete for good …
        </button>
      )}
      {Boolean(restore.error ?? forGood.error) && <Refusal error={restore.error ?? forGood.error} />}
    </div>
  )
}

/** ToTheBin puts a job into the bin at once: it can be restored. */
export function ToTheBin({ view }: { view: View }) {
  const bin = useBin(view.id)
  if (view.job.job.binned) return null
  return (
    <>
      <CommandButton of={bin} size="sm" tone="ghost" onClick={() => bin.run(undefined)}>
        <Trash2 size={16} aria-hidden /> <span className="max-sm:sr-only">Move to the bin</span>
      </CommandButton>
      {bin.error && <Refusal error={bin.error} />}
    </>
  )
}
