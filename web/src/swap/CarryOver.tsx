import { useState } from 'react'
import type { View } from '../api/client'
import { useKeepCarried, useSwap } from './queries'
import { InUse } from '../intake/Drives'
import { nowOf } from '../job/view'
import { FileButton } from '../ui/FileButton'
import { Fold } from '../ui/Fold'
import { day, time } from '../ui/format'
import { Refusal } from '../ui/parts'
import { carriedInWords, comparisonFrom, lists } from './carried'

/** FilesListed says how the files of the old drive are listed, so that what is missing afterwards can be named. */
export function FilesListed() {
  return (
    <p className="pt-1">
      On the old drive: <code>nowthen-probe manifest --of FOLDER --out old.gz</code>
    </p>
  )
}

/** CarryOver says what of the customer's files came across, from what the probe's manifest of the old drive tells of the new one. */
export function CarryOver({ view }: { view: View }) {
  const keep = useKeepCarried(view.id)
  const kept = useSwap(view.id).data?.lists
  const [failed, setFailed] = useState<Error>()
  const c = view.job.job.carried
  const now = nowOf(view)
  const take = async (file: File) => {
    setFailed(undefined)
    try {
      const told = comparisonFrom(await file.text())
      keep.run(told)
    } catch (e) {
      setFailed(e as Error)
    }
  }
  return (
    <Fold title="What came across" status={c ? 'compared' : 'not compared yet'} opened={Boolean(c && c.missing + c.changed + c.unreadable_now > 0)}>
      {now && (
        <div className="py-1">
          <InUse view={view} setup={now} />
        </div>
      )}
      {c ? (
        <p className={c.missing + c.changed + c.unreadable_now > 0 ? 'border-l-4 border-error pl-3 font-semibold' : 'font-semibold'}>
          {carriedInWords(c)} {c.at && <span className="font-normal text-secondary">{time(c.at)}</span>}
        </p>
      ) : (
        <p className="text-secondary">
          On the new drive: <code>nowthen-probe manifest --against old.gz --of FOLDER --json &gt; carried.json</code>
        </p>
      )}
      {kept &&
        lists(kept).map((l) => (
          <details key={l.title}>
            <summary className="cursor-pointer">
              {l.title}: {l.count.toLocaleString('en')}
            </summary>
            <ul className="max-h-64 overflow-auto font-mono text-sm">
              {l.paths.map((p) => (
                <li key={p} className="break-all">
                  {p}
                </li>
              ))}
            </ul>
          </details>
        ))}
      {kept && lists(kept).length > 0 && <p className="text-sm text-secondary">The names stay in the shop and are deleted on {day(kept.until)}; the report shows only the counts.</p>}
      {failed && <Refusal error={failed} />}
      {keep.error && <Refusal error={keep.error} />}
      <FileButton className="mt-2" label="Comparison of the manifest" accept=".json,application/json" onFile={(file) => void take(file)}>
        {c ? 'Import a newer comparison' : 'Import the comparison'}
      </FileButton>
    </Fold>
  )
}
