import { FolderInput } from 'lucide-react'
import { useRef, useState } from 'react'
import { Link } from 'react-router'
import type { Bare } from '../api/client'
import { refusalOf } from '../api/client'
import { useImportJob } from './queries'
import { useGoOn } from '../ui/goOn'
import { Refusal } from '../ui/parts'

/** ImportJob imports a job file, or a zip of one with its photos and clips. */
export function ImportJob() {
  const take = useImportJob()
  const pick = useRef<HTMLInputElement>(null)
  const [file, setFile] = useState<File>()
  const [updated, setUpdated] = useState<Bare>()
  const goOn = useGoOn()
  const already = take.error ? refusalOf(take.error).already : undefined
  const open = goOn((view: Bare) => `/jobs/${view.id}`)
  const show = (view: Bare) => (view.imported ? setUpdated(view) : open(view))
  return (
    <div className="mt-8 flex flex-col gap-3">
      {take.error && !already && <Refusal error={take.error} />}
      {already && file && (
        <section role="alert" aria-label="Import" className="sheet p-4">
          <p className="font-semibold">
            Job{' '}
            <Link className="link" to={`/jobs/${already.job}`}>
              {already.number}
            </Link>{' '}
            already exists. Nothing was changed.
          </p>
          <div className="mt-3 flex flex-wrap gap-3">
            <button type="button" className="btn btn-primary btn-sm" disabled={take.isPending} onClick={() => take.run({ file, as: 'update' }, show)}>
              Update it with what is new
            </button>
            <button type="button" className="btn btn-sm" disabled={take.isPending} onClick={() => take.run({ file, as: 'copy' }, show)}>
              Keep both as separate jobs
            </button>
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => take.reset()}>
              Cancel
            </button>
          </div>
        </section>
      )}
      {updated?.imported && <Updated view={updated} of={updated.imported} />}
      <div>
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => pick.current?.click()} disabled={take.isPending}>
          <FolderInput size={18} aria-hidden /> {take.isPending ? 'Reading the file …' : 'Import job'}
        </button>
        <input
          ref={pick}
          type="file"
          accept=".json,.zip,application/json,application/zip"
          className="hidden"
          aria-label="Job file"
          onChange={(e) => {
            const chosen = e.target.files?.[0]
            e.target.value = ''
            setUpdated(undefined)
            setFile(chosen)
            if (chosen) take.run({ file: chosen }, show)
          }}
        />
      </div>
    </div>
  )
}

/** Updated says what a file added to an existing job. */
function Updated({ view, of }: { view: Bare; of: NonNullable<Bare['imported']> }) {
  const fresh = of.added.runs ?? 0
  return (
    <section role="status" aria-label="Import" className="sheet p-4">
      <p className="font-semibold">
        Job{' '}
        <Link className="link" to={`/jobs/${view.id}`}>
          {view.job.job.number}
        </Link>{' '}
        is up to date: {of.already} of the file’s {of.already + fresh} runs already existed.
      </p>
      {of.differences.length > 0 && (
        <>
          <p className="mt-2">The file has different values here. The stored ones were kept:</p>
          <ul className="ml-5 list-disc text-sm break-words">
            {of.differences.slice(0, 20).map((d) => (
              <li key={d.place}>
                {d.place}: {d.stored} (file: {d.file})
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  )
}
