import { ArrowRight, Hand, Hourglass } from 'lucide-react'
import { Link } from 'react-router'
import type { Card } from '../api/client'
import { Track } from '../job/Track'
import { SideMark, Simulated } from '../ui/parts'
import { minutes, since } from '../ui/format'

/** JobStrip is a job on the bench page: who, what computer, and the one thing it needs next; now is the time in ms. */
export function JobStrip({ card, now, dense }: { card: Card; now: number; dense?: boolean }) {
  const { next } = card
  if (dense) return <DenseStrip card={card} now={now} />
  return (
    <Link
      to={`/jobs/${card.id}`}
      data-job={card.id}
      className="sheet grid gap-x-6 gap-y-3 p-4 hover:border-base-content md:grid-cols-[minmax(0,5fr)_minmax(0,4fr)]"
    >
      <div className="min-w-0">
        <p className="flex flex-wrap items-baseline gap-x-3">
          <span className="text-xl font-bold break-words">{card.customer || card.computer || 'No name yet'}</span>
          <span className="text-secondary">{card.number}</span>
          {card.simulated && <Simulated small />}
        </p>
        {card.customer && card.computer && <p>{card.computer}</p>}
        <p className="mt-1 text-sm text-secondary">
          <SideMark side="then" /> {card.old_drive}
        </p>
        <p className="text-sm text-secondary">
          <SideMark side="now" /> {card.new_drive || 'new drive not chosen yet'}
        </p>
      </div>
      <div className="flex min-w-0 flex-col justify-between gap-3">
        <p className="flex items-start gap-2 text-lg leading-snug font-semibold">
          {next.do === 'nothing' ? null : next.hands ? (
            <Hand className="mt-0.5 shrink-0" size={20} aria-label="needs you" />
          ) : (
            <Hourglass className="mt-0.5 shrink-0" size={20} aria-label="runs unattended" />
          )}
          <span className="flex-1">
            {next.words}{' '}
            {next.minutes > 0 && <span className="font-normal whitespace-nowrap text-secondary">about {minutes(next.minutes)}</span>}
          </span>
          <ArrowRight className="mt-0.5 shrink-0" size={20} aria-hidden />
        </p>
        <div className="flex items-end justify-between gap-4">
          <Track steps={card.track} />
          <span className="text-sm whitespace-nowrap text-secondary">{since(card.since, now)}</span>
        </div>
      </div>
    </Link>
  )
}

/** DenseStrip is the same on one line, for a bench with many jobs. */
function DenseStrip({ card, now }: { card: Card; now: number }) {
  const { next } = card
  return (
    <Link
      to={`/jobs/${card.id}`}
      data-job={card.id}
      className="grid items-center gap-x-5 gap-y-1 border-b border-base-300 px-2 py-2 hover:bg-base-200 md:grid-cols-[minmax(0,4fr)_minmax(0,5fr)_auto_5.5rem]"
    >
      <span className="min-w-0">
        <span className="block truncate text-lg leading-snug font-bold">{card.customer || card.computer || 'No name yet'}</span>
        <span className="block truncate text-sm text-secondary">
          {card.number} · {card.computer} {card.simulated && <Simulated small />}
        </span>
      </span>
      <span className="flex min-w-0 items-start gap-2">
        {next.do !== 'nothing' &&
          (next.hands ? (
            <Hand className="mt-0.5 shrink-0" size={18} aria-label="needs you" />
          ) : (
            <Hourglass className="mt-0.5 shrink-0" size={18} aria-label="runs unattended" />
          ))}
        <span className="line-clamp-2 leading-snug">
          {next.words} {next.minutes > 0 && <span className="text-secondary">about {minutes(next.minutes)}</span>}
        </span>
      </span>
      <Track steps={card.track} />
      <span className="text-sm text-secondary md:text-right">{since(card.since, now)}</span>
    </Link>
  )
}
