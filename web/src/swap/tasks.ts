import type { Schemas } from '../api/client'
import { capacity, figure } from '../ui/format'

export type Task = Schemas['Task']
export type Sum = Schemas['WorkSummary']['tasks'][number]

export const whats = [
  { value: 'clone', label: 'Cloning' },
  { value: 'install', label: 'Installing' },
  { value: 'restore', label: 'Restoring' },
  { value: 'copy', label: 'Copying' },
  { value: 'other', label: 'Other' },
] as const

export const froms = [
  { value: 'old-drive', label: 'The old drive' },
  { value: 'backup', label: 'A backup' },
  { value: 'installer', label: 'An installer' },
  { value: 'network', label: 'The network' },
  { value: 'other', label: 'Elsewhere' },
] as const

const sources: Record<string, string> = { 'old-drive': 'from the old drive', backup: 'from a backup', installer: 'from an installer', network: 'over the network', other: 'from elsewhere' }

/** nameOf is what a task is called: what it does, or what it is where that is something of its own. */
export const nameOf = (t: Task) => (t.what === 'other' ? (t.words ?? '') : (whats.find((w) => w.value === t.what)?.label ?? t.what))

/** howOf says how it is done and from where. */
export const howOf = (t: Task) => [t.what === 'other' ? '' : t.words, t.from && sources[t.from], t.bytes ? capacity(t.bytes) : ''].filter(Boolean).join(', ')

/** running is the stretch whose clock runs. */
export const running = (t: Task) => {
  const last = t.stretches.at(-1)
  return last && !last.to ? last : undefined
}

/** spent writes a time of work: whole minutes, hours from sixty on. */
export function spent(seconds: number): string {
  const m = Math.floor(Math.max(0, seconds) / 60)
  if (m < 1) return 'under a minute'
  return m < 60 ? `${m} min` : `${Math.floor(m / 60)} h ${m % 60} min`
}

/** of is a sum as it stands now: what runs continues since the sum was told. */
export function now(sum: Sum, task: Task, since: number): Sum {
  const kind = running(task)?.kind
  const more = kind ? Math.max(0, since) / 1000 : 0
  const left = (minutes: number | null) => (minutes === null || minutes <= more / 60 ? null : minutes - more / 60)
  return { ...sum, left_min: left(sum.left_min), at_least_min: left(sum.at_least_min), hands_on_s: sum.hands_on_s + (kind === 'hands-on' ? more : 0), waiting_s: sum.waiting_s + (kind === 'waiting' ? more : 0) }
}

/** tookWords says what it took, by hands and waiting. */
export const tookWords = (s: { hands_on_s: number; waiting_s: number }) =>
  [s.hands_on_s >= 1 && `${spent(s.hands_on_s)} by hand`, s.waiting_s >= 1 && `${spent(s.waiting_s)} waiting`].filter(Boolean).join(', ') || 'no time yet'

/** slow is the share of what its drives can do below which a transfer had something in its way. */
const slow = 0.5

/** rateWords sets what a transfer reached beside what the slower of its drives can do. */
export function rateWords(s: Sum, whose: string): { words: string; slow: boolean } | undefined {
  if (s.rate_mb_s === null) return undefined
  const reached = figure(s.rate_mb_s, 'MB/s')
  if (s.could_mb_s === null) return { words: `${reached}.`, slow: false }
  const held = s.rate_mb_s < slow * s.could_mb_s
  return {
    words: `${reached}; ${whose} can do ${figure(s.could_mb_s, 'MB/s')}.${held ? ' Check cable, port and adapter.' : ''}`,
    slow: held,
  }
}

/** leftWords say how long a transfer that runs still takes: as is usual here, else at least, at the rate of its drives. */
export function leftWords(s: Sum): string {
  if (s.left_min !== null) return `About ${spent(s.left_min * 60)} left.`
  return s.at_least_min === null ? '' : `At least ${spent(s.at_least_min * 60)} left, at the rate of its drives.`
}

/** usualWords say how long such tasks took here before. */
export const usualWords = (s: Sum) => (s.usual_min === null ? '' : `Usually ${spent(s.usual_min * 60)} here (${s.of} earlier).`)
