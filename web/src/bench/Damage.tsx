import { AlertTriangle } from 'lucide-react'
import type { Board } from '../api/client'

/** Damage says which jobs can't be opened any more, and what is wrong with the daily backup. */
export function Damage({ board: { damaged, backups } }: { board: Board }) {
  const waits = backups?.waiting && <p role="status" className="mb-4 text-secondary">The daily backup waits until measuring on this computer has ended.</p>
  if (damaged.length === 0 && !backups?.problem) return waits || null
  return (
    <section role="alert" aria-label="Damage" className="mb-4 rounded-box border-l-4 border-error bg-base-200 p-4">
      {damaged.map((j) => (
        <p key={j.id} className="flex items-start gap-2">
          <AlertTriangle className="mt-0.5 shrink-0 text-error" size={20} aria-hidden />
          <span>
            <strong>Job {j.number || j.id} is damaged and can’t be opened.</strong> All other jobs are unharmed.
          </span>
        </p>
      ))}
      {damaged.length > 0 && (
        <div className="ml-7">
          <p>To get it back, restore {backups?.good ? 'the newest good backup' : 'your newest good backup'} into a new folder and serve that:</p>
          <code className="block overflow-x-auto whitespace-nowrap" tabIndex={0}>
            nowthen restore {backups?.good ? `backups/${backups.good}` : 'IN.zip'} --data FOLDER
          </code>
        </div>
      )}
      {backups?.problem && (
        <p className="flex items-start gap-2">
          <AlertTriangle className="mt-0.5 shrink-0 text-error" size={20} aria-hidden />
          <span>
            <strong>The daily backup has a problem:</strong> {backups.problem}.
          </span>
        </p>
      )}
    </section>
  )
}
