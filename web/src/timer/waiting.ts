import type { Schemas } from '../api/client'

/** Press is what was done to the timer on this device, with the time at which it was done. */
export type Press = Schemas['Press']

/** Arming is what a timer is armed for. */
type Arming = { test: string; sitting: string; by: string }

/**
 * Waiting is something done on this device that is on its way: a press or a hold, or taking the last press back. It names its timer, so that a
 * late one never touches the next. One that was made before the clocks were lined up has this device's time of day, which own says; the
 * first one of a timer that is not armed yet says what to arm; tried are those that may have arrived already.
 */
export type Waiting = Omit<Press, 'kind' | 'timer'> & { timer: string; kind: 'press' | 'hold' | 'undo'; own?: true; arm?: Arming; tried?: true }

/**
 * An outbox keeps what was done until the bench has it. It lies in the device's storage, so that neither a lost network nor a
 * reloaded page nor a phone that was locked nor a session that ended loses any.
 */
const place = (job: string) => `presses ${job}`

export function waitingPresses(job: string): Waiting[] {
  try {
    return JSON.parse(localStorage.getItem(place(job)) ?? '[]') as Waiting[]
  } catch {
    return []
  }
}

export function store(job: string, list: Waiting[]) {
  if (list.length === 0) localStorage.removeItem(place(job))
  else localStorage.setItem(place(job), JSON.stringify(list))
}

