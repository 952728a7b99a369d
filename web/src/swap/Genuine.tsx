import { useState } from 'react'
import type { View } from '../api/client'
import { useHold, useSustained, useSwap } from './queries'
import { nowOf } from '../job/view'
import { FileButton } from '../ui/FileButton'
import { Fold } from '../ui/Fold'
import { Refusal } from '../ui/parts'
import { CheckLine, standing } from './CheckLine'
import { foundFrom } from './held'
import { CheckDrive } from './CheckDrive'

/** told are the checks of the drive itself, however it is connected. */
const told = ['recognised', 'new', 'holds', 'steady', 'under-load']

/** Genuine reports whether the new drive has the capacity it reports, and how it holds up, before anything is put on it. */
export function Genuine({ view }: { view: View }) {
  const swap = useSwap(view.id)
  const hold = useHold(view.id)
  const sustained = useSustained(view.id)
  const [failed, setFailed] = useState<Error>()
  if (!nowOf(view)) return null
  const checks = (swap.data?.checks ?? []).filter((c) => told.includes(c.id))
  const worst = checks.find((c) => c.state === 'wrong')
  const take = async (file: File) => {
    setFailed(undefined)
    try {
      const found = foundFrom(await file.text())
      if ('held' in found) hold.run(found.held)
      else sustained.run(found.sustained)
    } catch (e) {
      setFailed(e as Error)
    }
  }
  return (
    <Fold
      live
      title="True capacity and sustained writing"
      opened={Boolean(worst)}
      status={worst?.found ?? standing(checks)}
      tone={worst ? 'font-semibold text-error' : 'text-secondary'}
    >
      {checks.length > 0 && (
        <ul>
          {checks.map((c) => (
            <CheckLine key={c.id} check={c} />
          ))}
        </ul>
      )}
      <CheckDrive view={view} fitted={false} />
      <p className="pt-2 text-secondary">
        Without a joined probe, before you copy anything to it: <code>nowthen-probe capacity --in FOLDER --label CODE --json &gt; drive.json</code>. Add{' '}
        <code>--whole</code> to check all of it. <code>nowthen-probe sustain</code> works the same way.
      </p>
      {(failed ?? hold.error ?? sustained.error) && <Refusal error={failed ?? hold.error ?? sustained.error} />}
      <FileButton className="mt-2" label="Result file of the new drive" accept=".json,application/json" onFile={(file) => void take(file)}>
        Import drive.json
      </FileButton>
    </Fold>
  )
}
