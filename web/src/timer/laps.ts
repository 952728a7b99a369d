import type { Timer } from '../api/client'

/** Lap is one phase of the timer: how long it took, or takes so far. */
export type Lap = { id: string; name: string; counts: boolean; seconds: number; state: 'done' | 'running' | 'ahead' }

/** lapsOf reads the phases off a timer's marks; now is the bench's clock in ms. */
export function lapsOf(timer: Pick<Timer, 'phases' | 'marks_ms'>, now: number): Lap[] {
  const marks = timer.marks_ms
  return timer.phases.map((p, i) => {
    const from = marks[i]
    const to = marks[i + 1]
    if (from === undefined) return { ...p, seconds: 0, state: 'ahead' }
    if (to === undefined) return { ...p, seconds: Math.max(0, now - from) / 1000, state: 'running' }
    return { ...p, seconds: (to - from) / 1000, state: 'done' }
  })
}

/** counted is the time that counts so far, s. */
export const counted = (laps: Lap[]) => laps.reduce((sum, l) => sum + (l.counts ? l.seconds : 0), 0)

/** whatPressDoes says what the next press means. */
export function whatPressDoes(timer: Pick<Timer, 'phases' | 'marks_ms' | 'state'>): string {
  if (timer.state === 'ready') return 'starts, together with the power button'
  if (timer.state === 'stopped') return ''
  const at = timer.marks_ms.length - 1
  const phase = timer.phases[at]
  const last = at === timer.phases.length - 1
  if (!phase?.name) return 'stops'
  return last ? `stops ${phase.name.startsWith('to ') ? 'at' + phase.name.slice(2) : 'at the end of ' + phase.name}` : `ends “${phase.name}”`
}
