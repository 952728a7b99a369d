import { useRef, useState } from 'react'
import type { View } from '../api/client'
import { useTable } from './queries'
import { Refusal } from '../ui/parts'

/** TakeTable takes in figures that were written down in a table, and shows beforehand what each row becomes. */
export function TakeTable({ view }: { view: View }) {
  const table = useTable(view.id)
  const pick = useRef<HTMLInputElement>(null)
  const [file, setFile] = useState<File>()
  const shown = table.data
  const doubtful = shown ? shown.bad + shown.doubted : 0
  return (
    <div className="flex flex-col gap-3">
      <div>
        <button type="button" className="btn btn-sm" onClick={() => pick.current?.click()}>
          Import CSV
        </button>
        <input
          ref={pick}
          type="file"
          accept=".csv,text/csv"
          className="sr-only"
          aria-label="Table of values"
          tabIndex={-1}
          onChange={(e) => {
            const f = e.target.files?.[0]
            if (f) {
              setFile(f)
              table.run({ file: f, take: '' })
            }
            e.target.value = ''
          }}
        />
      </div>
      {table.error && <Refusal error={table.error} />}
      {shown && shown.taken > 0 && (
        <p role="status">
          {shown.taken === 1 ? '1 value was imported' : `${shown.taken} values were imported`}
          {shown.already > 0 && `; ${shown.already} of ${shown.rows.length} already existed`}.
        </p>
      )}
      {shown && shown.taken === 0 && file && (
        <div className="sheet p-4">
          <p className="font-semibold">{shown.already > 0 && shown.good === 0
              ? `${file.name}: all ${shown.already} rows already exist.`
              : `${file.name}: preview. Nothing is imported yet.`}</p>
          <div className="max-h-72 overflow-auto">
            <table className="mt-2 w-full text-sm">
              <tbody>
                {shown.rows.map((r) => (
                  <tr key={r.line} className="border-t border-base-300 align-top">
                    <td className="py-1 pr-3 text-secondary">row {r.line}</td>
                    <td className="py-1">
                      {r.becomes && <strong>{r.becomes}</strong>}
                      {r.already && <span className="block text-secondary">already exists, not added again</span>}
                      {r.doubt && <span className="block font-semibold text-warning">{r.doubt}</span>}
                      {r.problem && <span className="text-error">Not imported: {r.problem}</span>}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <div className="mt-3 flex flex-wrap gap-3">
            <button type="button" className="btn btn-primary btn-sm" disabled={shown.good === 0 || table.isPending} onClick={() => table.run({ file, take: doubtful > 0 ? 'sure' : 'all' })}>
              {doubtful > 0 ? `Import ${shown.good} as they are` : `Import all ${shown.good}`}
            </button>
            <button type="button" className="btn btn-sm" onClick={() => table.reset()}>
              Cancel
            </button>
          </div>
        </div>
      )}
    </div>
  )
}
