import { Hand, Hourglass } from 'lucide-react'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { Board, Card } from '../api/client'
import { beginPath, beginWords, measurePath, timerPath } from '../job/paths'
import { minutes } from '../ui/format'

/** NextAtTheBench is, over all open jobs, what needs you now, and what runs or could run unattended. */
export function NextAtTheBench({ board }: { board: Board }) {
  const { hands, itself } = board
  const rounds = board.rounds.filter((m) => m.state === 'running')
  const customer = (job: string) => board.cards.find((c) => c.id === job)?.customer
  if (board.timers.length === 0 && (board.total < 2 || (!hands && !itself && rounds.length === 0))) return null
  return (
    <section aria-label="Next at the bench" className="mb-4 grid gap-px overflow-hidden rounded-box border-2 border-base-content md:grid-cols-2">
      <Part icon={<Hand size={22} aria-hidden />} title="Needs you">
        {board.timers.length > 0 ? (
          <ul>
            {board.timers.map((t) => (
              <li key={t.job}>
                <Link className="link font-bold" to={timerPath(t.job, t.setup, t.test)}>
                  Timer running{customer(t.job) && `, ${customer(t.job)}`}: {t.name}
                </Link>
              </li>
            ))}
          </ul>
        ) : hands ? (
          <To card={hands} />
        ) : (
          'Nothing needs you.'
        )}
      </Part>
      <Part icon={<Hourglass size={22} aria-hidden />} title="Unattended">
        {rounds.length > 0 ? (
          <ul>
            {rounds.map((m) => (
              <li key={m.job}>
                <Link className="link font-bold" to={measurePath(m.job, m.setup)}>
                  Measuring {customer(m.job)}: {m.kept} of {m.of} runs are done
                </Link>
              </li>
            ))}
          </ul>
        ) : itself ? (
          <To card={itself.next.unattended && itself.next.hands ? { ...itself, next: itself.next.unattended } : itself} />
        ) : (
          'Nothing to start.'
        )}
      </Part>
    </section>
  )
}

function Part({ icon, title, children }: { icon: ReactNode; title: string; children: ReactNode }) {
  return (
    <div className="flex gap-3 p-3.5">
      <span className="pt-0.5">{icon}</span>
      <div className="flex-1">
        <p className="text-sm text-secondary">{title}</p>
        <div className="text-lg leading-snug">{children}</div>
      </div>
    </div>
  )
}

/** To says what a job needs next, with the button that begins it from here. */
function To({ card }: { card: Card }) {
  return (
    <span className="flex flex-wrap items-center gap-x-4 gap-y-2">
      <Link className="flex-1 basis-52 hover:underline" to={`/jobs/${card.id}`}>
        <strong>{card.customer || card.computer || card.number}</strong>: {card.next.words}{' '}
        {card.next.minutes > 0 && <span className="text-secondary">about {minutes(card.next.minutes)}</span>}
      </Link>
      <Link className="btn btn-primary" to={beginPath(card)} aria-label={`${beginWords[card.next.do]}: ${card.customer || card.computer || card.number}`}>
        {beginWords[card.next.do]}
      </Link>
    </span>
  )
}
