import type { Timer } from '../api/client'
import type { Waiting } from './outbox'

/** Lap is one phase of the timer: how long it took, or takes so far. */
export type Lap = { id: string; name: string; counts: boolean; seconds: number; state: 'done' | 'running' | 'ahead' }

type Timed = Pick<Timer, 'phases' | 'marks_ms' | 'holds'>

/** heldMS is how much of a stretch was held: the human's part, which is left out. */
export function heldMS(holds: Timer['holds'], from: number, to: number): number {
  return holds.reduce((sum, h) => sum + Math.max(0, Math.min(h.to_ms ?? to, to) - Math.max(h.from_ms, from)), 0)
}

/** lapsOf reads the phases off a timer's marks; now is the bench's clock in ms. */
export function lapsOf(timer: Timed & { state?: Timer['state'] }, now: number): Lap[] {
  const marks = timer.marks_ms
  const span = (from: number, to: number) => Math.max(0, to - from - heldMS(timer.holds, from, to)) / 1000
  return timer.phases.map((p, i) => {
    const from = marks[i]
    const to = marks[i + 1]
    if (from === undefined || (to === undefined && timer.state === 'stopped')) return { ...p, seconds: 0, state: 'ahead' }
    if (to === undefined) return { ...p, seconds: span(from, Math.max(from, now)), state: 'running' }
    return { ...p, seconds: span(from, to), state: 'done' }
  })
}

/** holding reports whether the human's part is under way. */
export const holding = (timer: Pick<Timer, 'holds' | 'state'>) => timer.state === 'running' && timer.holds.at(-1)?.to_ms === null

/**
 * withWaiting is the timer as it will be once the presses that still wait for the network have arrived, so that the glass answers
 * at once. The bench decides; this only shows it beforehand.
 */
export function withWaiting(timer: Timer, presses: Waiting[]): Timer {
  // An event may tell of a press before its own answer does.
  const ahead = presses.filter((p) => p.timer === timer.id && !timer.taken.includes(p.key))
  return ahead.reduce((t, p) => {
    if (p.kind === 'undo') {
      const marks_ms = t.marks_ms.slice(0, -1)
      // Its value was that of the press that is undone.
      return { ...t, marks_ms, value: null, state: marks_ms.length === 0 ? 'ready' : 'running' }
    }
    if (p.kind === 'hold') {
      if (t.state !== 'running') return t
      const last = t.holds.at(-1)
      const holds = last?.to_ms === null ? [...t.holds.slice(0, -1), { ...last, to_ms: p.at_ms }] : [...t.holds, { from_ms: p.at_ms, to_ms: null }]
      return { ...t, holds }
    }
    if (t.state === 'stopped') return t
    const marks_ms = [...t.marks_ms, p.at_ms]
    return { ...t, marks_ms, state: marks_ms.length > t.phases.length ? 'stopped' : 'running' }
  }, timer)
}

/** counted is the time that counts so far, s. */
export const counted = (laps: Lap[]) => laps.reduce((sum, l) => sum + (l.counts ? l.seconds : 0), 0)

/** whatPressDoes says what the next press means, by the test's own sentences where it has them. */
export function whatPressDoes(timer: Pick<Timer, 'phases' | 'marks_ms' | 'state'>, test: { begin?: string; end?: string } = {}): string {
  if (timer.state === 'ready') return test.begin ? `starts when ${test.begin}` : 'starts'
  if (timer.state === 'stopped') return ''
  const at = timer.marks_ms.length - 1
  const phase = timer.phases[at]
  const last = at === timer.phases.length - 1
  if (test.end && (last || !phase?.name)) return `stops when ${test.end}`
  if (!phase?.name) return 'stops'
  return last ? `stops ${phase.name.startsWith('to ') ? 'at' + phase.name.slice(2) : 'at the end of ' + phase.name}` : `ends “${phase.name}”`
}
