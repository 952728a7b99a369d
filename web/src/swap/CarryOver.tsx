import { useState } from 'react'
import type { View } from '../api/client'
import { useKeepCarried, useSwap } from './queries'
import { InUse } from '../intake/Drives'
import { nowOf, setupAs } from '../job/view'
import { FileButton } from '../ui/FileButton'
import { Fold } from '../ui/Fold'
import { day, partSize, time } from '../ui/format'
import { Refusal, Simulated } from '../ui/parts'
import { ReadFiles } from './ReadFiles'
import { carriedInWords, comparisonFrom, folderAgain, lists } from './carried'

/** FilesListed lists the files of the old drive, so that what is missing afterwards can be named. */
export function FilesListed({ view }: { view: View }) {
  const { listed, failing } = useSwap(view.id).data ?? {}
  const then = setupAs(view, 'then')
  return (
    <div className="pt-1">
      {listed && (
        <p>
          <strong>
            {listed.files.toLocaleString('en')} files, {partSize(listed.bytes)}
          </strong>{' '}
          in {listed.folder}, listed {time(listed.at)}. {listed.simulated && <Simulated small />}
          {listed.unreadable > 0 && <span className="text-warning"> {listed.unreadable.toLocaleString('en')} of them can’t be read.</span>}
          <span className="block text-sm text-secondary">The list stays in the shop and is deleted on {day(listed.until)}.</span>
        </p>
      )}
      {failing && <p className="text-warning">The drive is failing: copy the files first, listing reads all of them.</p>}
      {then && <ReadFiles view={view} setup={then} kind="list" label={listed ? 'List them again' : 'List the files'} />}
      <details className="pt-1 text-sm text-secondary">
        <summary className="cursor-pointer py-1">On a computer that hasn’t joined</summary>
        <code>nowthen-probe manifest --of FOLDER --out old.gz</code>
      </details>
    </div>
  )
}

/** CarryOver says what of the customer's files came across, from what the probe's manifest of the old drive tells of the new one. */
export function CarryOver({ view }: { view: View }) {
  const keep = useKeepCarried(view.id)
  const { lists: kept, listed } = useSwap(view.id).data ?? {}
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
        !listed && <p className="text-secondary">The files of the old drive are not listed.</p>
      )}
      {now && listed && <ReadFiles view={view} setup={now} kind="compare" label={c ? 'Check once more' : 'Check what came across'} folder={folderAgain(listed.folder)} />}
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
      <details className="pt-2 text-sm" open={failed !== undefined || keep.error !== null}>
        <summary className="cursor-pointer py-1 text-secondary">On a computer that hasn’t joined</summary>
        <code>nowthen-probe manifest --against old.gz --of FOLDER --json &gt; carried.json</code>
        <FileButton className="mt-2" label="Comparison of the manifest" accept=".json,application/json" onFile={(file) => void take(file)}>
          {c ? 'Import a newer comparison' : 'Import the comparison'}
        </FileButton>
      </details>
    </Fold>
  )
}
