import { Link } from 'react-router'
import { useDue } from './queries'
import { pagePath } from '../job/paths'
import { dueDay, iso, overdue, promiseWords, soon } from './later'

/**
 * Due is what was promised to customers whose computers have gone back: what is due today or was before, or what comes within
 * a fortnight.
 */
export function Due({ when }: { when: 'now' | 'soon' }) {
  const due = useDue()
  const today = new Date()
  const now = iso(today)
  const list = (due.data ?? []).filter((d) => (when === 'now' ? d.promise.due <= now : d.promise.due > now && soon(d.promise, today)))
  if (list.length === 0) return null
  return (
    <section aria-labelledby={`due-${when}`} className={when === 'now' ? 'pb-5' : 'pt-6'}>
      <h2 id={`due-${when}`} className="text-xl font-bold">
        {when === 'now' ? 'Follow-ups due' : 'Coming follow-ups'}
      </h2>
      <ul>
        {list.map((d) => (
          <li key={d.promise.id}>
            <Link className="flex min-h-11 flex-wrap items-center gap-x-4 border-b border-base-300 py-1.5 hover:bg-base-200" to={pagePath(d.job, 'report')}>
              <strong className={overdue(d.promise, now) ? 'text-warning' : ''}>{dueDay(d.promise.due)}</strong>
              <span dir="auto">{d.customer || d.number}</span>
              <span className="text-secondary">{promiseWords(d.promise, d.name)}</span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  )
}
