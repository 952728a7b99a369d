import { CornerLeftUp, Folder as FolderIcon } from 'lucide-react'
import { useState } from 'react'
import { useFolders } from './queries'
import { Field } from '../ui/Field'
import { Loading, Refusal } from '../ui/parts'

/** Folder picks the folder that is measured: typed in, or walked to. */
export function Folder({ dir, onDir, error }: { dir: string; onDir: (dir: string) => void; error?: string }) {
  const [walking, setWalking] = useState(false)
  const folders = useFolders(dir, walking)
  const list = folders.data
  const join = (name: string) => (list!.path.endsWith('/') ? list!.path + name : `${list!.path}/${name}`)
  return (
    <div className="flex flex-col gap-2">
      <div className="flex items-end gap-2">
        <Field
          className="max-w-xl flex-1"
          label="Folder on the drive that is measured (this computer)"
          placeholder="a folder, from the root on"
          spellCheck={false}
          value={dir}
          error={error}
          onChange={(e) => onDir(e.target.value)}
        />
        <button type="button" className="btn" aria-expanded={walking} onClick={() => setWalking(!walking)}>
          Browse
        </button>
      </div>
      {walking && (
        <div className="sheet max-h-64 max-w-xl overflow-y-auto p-2">
          {folders.isPending && <Loading what="the folders" />}
          {folders.error && <Refusal error={folders.error} />}
          {list && (
            <ul>
              {list.parent && (
                <li>
                  <button type="button" className="btn btn-ghost btn-sm w-full justify-start" onClick={() => onDir(list.parent)}>
                    <CornerLeftUp size={16} aria-hidden /> up
                  </button>
                </li>
              )}
              {list.folders.map((f) => (
                <li key={f}>
                  <button type="button" className="btn btn-ghost btn-sm w-full justify-start" onClick={() => onDir(join(f))}>
                    <FolderIcon size={16} aria-hidden /> {f}
                  </button>
                </li>
              ))}
              {list.folders.length === 0 && <li className="p-2 text-secondary">No folders in {list.path}. It can be measured itself.</li>}
            </ul>
          )}
        </div>
      )}
    </div>
  )
}
