import { useState } from 'react'
import type { View } from '../api/client'
import { useHold, useSwap } from '../api/queries'
import { setupAs } from '../job/view'
import { FileButton } from '../ui/FileButton'
import { Refusal } from '../ui/parts'
import { One } from './Checks'
import { heldFrom } from './held'
import { codeOf } from './which'

/** Genuine tells whether the new drive holds what it says, before anything is put on it. */
export function Genuine({ view }: { view: View }) {
  const swap = useSwap(view.id)
  const hold = useHold(view.id)
  const [failed, setFailed] = useState<Error>()
  if (!setupAs(view, 'now')) return null
  const check = swap.data?.checks.find((c) => c.id === 'holds')
  const take = async (file: File) => {
    setFailed(undefined)
    try {
      hold.run(heldFrom(await file.text()))
    } catch (e) {
      setFailed(e as Error)
    }
  }
  return (
    <details className="border-t border-base-300 pt-2">
      <summary className="flex cursor-pointer flex-wrap items-baseline gap-x-3">
        <h2 className="text-xl font-bold">Is the new drive what it says</h2>
        <span className={check?.state === 'wrong' ? 'font-semibold text-error' : 'text-secondary'}>{check ? check.found : 'not looked at'}</span>
      </summary>
      {check && (
        <ul>
          <One check={check} />
        </ul>
      )}
      <p className="pt-2 text-secondary">
        Before anything is put on it, with a file system alone: <code>nowthen-probe capacity --in FOLDER --label &quot;{codeOf(view.job.job.number, 'now')}&quot; --json &gt; held.json</code>; with <code>--whole</code> over all of it.
      </p>
      {(failed ?? hold.error) && <Refusal error={failed ?? hold.error} />}
      <FileButton className="mt-2" label="What came back of the new drive" accept=".json,application/json" onFile={(file) => void take(file)}>
        Import what came back
      </FileButton>
    </details>
  )
}
