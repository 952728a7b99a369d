import { useId } from 'react'
import type { DriveOffer } from './drives'

/** DriveChoice lets a drive of a joined computer be picked. value is the key of a volume on it; the program chooses which, and it can be changed. */
export function DriveChoice({ drives, value, onPick, none, error }: { drives: DriveOffer[]; value: string; onPick: (key: string) => void; none?: string; error?: string }) {
  const name = useId()
  const picked = drives.find((d) => d.volumes.some((v) => v.key === value))
  return (
    <fieldset aria-describedby={error ? `${name}-wrong` : undefined}>
      <legend className="text-sm font-semibold">Drive</legend>
      {drives.length === 0 && <p className="text-secondary">{none}</p>}
      {drives.map((d) => (
        <label key={d.key} className={`flex min-h-11 items-center gap-3 ${d.volumes.length > 0 ? 'cursor-pointer' : ''}`}>
          <input type="radio" className="radio" name={name} checked={d === picked} disabled={d.volumes.length === 0} onChange={() => onPick(d.volumes[0]!.key)} />
          <span>
            <strong>{d.name}</strong>, {d.says}
            {d.volumes.length === 0 && <span className="text-secondary"> – no file system found on it</span>}
          </span>
        </label>
      ))}
      {picked && <FolderOn drive={picked} value={value} onPick={onPick} />}
      {error && (
        <p id={`${name}-wrong`} className="text-error">
          {error}
        </p>
      )}
    </fieldset>
  )
}

/** FolderOn lets another volume of a drive be chosen, where it has several. */
export function FolderOn({ drive, value, onPick }: { drive: DriveOffer; value: string; onPick: (key: string) => void }) {
  if (drive.volumes.length < 2) return null
  return (
    <label className="flex flex-wrap items-center gap-2 text-sm">
      <span className="font-semibold">Folder</span>
      <select className="select select-sm w-72 max-w-full" value={value} onChange={(e) => onPick(e.target.value)}>
        {drive.volumes.map((v) => (
          <option key={v.key} value={v.key}>
            {v.words}
          </option>
        ))}
      </select>
    </label>
  )
}
