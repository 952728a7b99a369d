import { describe, expect, it } from 'vitest'
import type { Timer } from '../api/client'
import { counted, heldMS, holding, lapsOf, whatPressDoes, withWaiting } from './laps'

const phases = [
  { id: 'login', name: 'to the sign-in', counts: true },
  { id: 'typing', name: 'password', counts: false },
  { id: 'desktop', name: 'to a usable desktop', counts: true },
]

describe('lapsOf', () => {
  it('knows nothing before the start', () => {
    const laps = lapsOf({ phases, marks_ms: [], holds: [] }, 5000)
    expect(laps.map((l) => l.state)).toEqual(['ahead', 'ahead', 'ahead'])
    expect(counted(laps)).toBe(0)
  })
  it('runs on in the phase that is under way', () => {
    const laps = lapsOf({ phases, marks_ms: [1000, 4000], holds: [] }, 6500)
    expect(laps.map((l) => l.state)).toEqual(['done', 'running', 'ahead'])
    expect(laps[1]!.seconds).toBe(2.5)
    expect(counted(laps)).toBe(3)
  })
  it('is never below zero where the clocks differ a little', () => {
    expect(lapsOf({ phases, marks_ms: [1000], holds: [] }, 990)[0]!.seconds).toBe(0)
  })
  it('leaves out what does not count', () => {
    expect(counted(lapsOf({ phases, marks_ms: [0, 41_200, 49_200, 100_400], holds: [] }, 0))).toBeCloseTo(92.4)
  })
})

describe('the sentences of a test', () => {
  const own = { begin: 'you open the program', end: 'its window takes what you type' }
  const one = [{ id: '', name: '', counts: true }]
  it.each([
    ['ready', 0, one, 'starts when you open the program'],
    ['running', 1, one, 'stops when its window takes what you type'],
    ['running', 1, phases, 'ends “to the sign-in”'],
    ['running', 3, phases, 'stops when its window takes what you type'],
  ] as const)('%s after %i presses', (state, n, list, want) =>
    expect(whatPressDoes({ phases: [...list], marks_ms: Array<number>(n).fill(0), state }, own)).toBe(want))
})

describe('whatPressDoes', () => {
  const words = (state: 'ready' | 'running' | 'stopped', marks: number, list = phases) =>
    whatPressDoes({ phases: list, marks_ms: Array<number>(marks).fill(0), state })
  it('names the phase that ends', () => {
    expect(words('ready', 0)).toBe('starts')
    expect(words('running', 1)).toBe('ends “to the sign-in”')
    expect(words('running', 2)).toBe('ends “password”')
    expect(words('running', 3)).toBe('stops at a usable desktop')
    expect(words('stopped', 4)).toBe('')
    expect(words('running', 1, [{ id: '', name: '', counts: true }])).toBe('stops')
  })
})

const armed: Timer = {
  id: 'T', job: 'j', test: 't', name: 'Start', sitting: 's1', setup: 'then', state: 'ready', phases, marks_ms: [], holds: [], taken: [], now_ms: 0, value: null, held_s: 0,
  u: 0.28, reaction: 0.2, calibrated: false, by: '', finish: '/f/x', pages: 1, opened: 0, ended: false, series: 0,
}

describe('holds', () => {
  it('are left out of the phase they fall into, at their ends too', () => {
    const holds = [{ from_ms: 500, to_ms: 1500 }, { from_ms: 1800, to_ms: null }]
    expect(heldMS(holds, 1000, 2000)).toBe(700)
    const laps = lapsOf({ phases, marks_ms: [0, 1000], holds }, 2800)
    expect(laps[0]!.seconds).toBe(0.5)
    expect(laps[1]!.seconds).toBeCloseTo(0.3)
    expect(holding({ state: 'running', holds })).toBe(true)
    expect(holding({ state: 'stopped', holds })).toBe(false)
  })
})

describe('withWaiting', () => {
  it('shows presses that the bench has not got yet', () => {
    const press = (at_ms: number, kind: 'press' | 'hold' | 'undo' = 'press') => ({ key: String(at_ms), timer: 'T', at_ms, kind, u_ms: 1 })
    const t = withWaiting(armed, [press(0, 'hold'), press(100), press(150, 'hold'), press(180, 'hold'), press(200), press(300), press(400), press(500)])
    expect(t.marks_ms).toEqual([100, 200, 300, 400])
    expect(t.holds).toEqual([{ from_ms: 150, to_ms: 180 }])
    expect(t.state).toBe('stopped')
  })
  it('counts a press once that an event has told of before its answer came', () => {
    const press = (at_ms: number, kind: 'press' | 'hold' | 'undo' = 'press') => ({ key: String(at_ms), timer: 'T', at_ms, kind, u_ms: 1 })
    const told: Timer = { ...armed, state: 'running', marks_ms: [100, 200], holds: [{ from_ms: 250, to_ms: null }], taken: ['100', '200', '250'] }
    const t = withWaiting(told, [press(200), press(250, 'hold'), press(300)])
    expect(t.marks_ms).toEqual([100, 200, 300])
    expect(t.holds).toEqual([{ from_ms: 250, to_ms: null }])
    expect(t.state).toBe('running')
  })
  it('leaves alone what was done to another timer', () => {
    expect(withWaiting(armed, [{ key: 'x', timer: 'earlier', at_ms: 5, kind: 'press', u_ms: 1 }]).state).toBe('ready')
  })
  it('takes back what waits to be taken back', () => {
    const t = withWaiting({ ...armed, state: 'running', marks_ms: [100, 200] }, [{ key: 'u', timer: 'T', at_ms: 0, kind: 'undo', u_ms: 0 }])
    expect(t.marks_ms).toEqual([100])
    expect(t.state).toBe('running')
  })
  it('takes back once what an event has told of before its answer came', () => {
    const told: Timer = { ...armed, state: 'running', marks_ms: [100, 200, 300], taken: ['100', '200', '300', '400', 'u'] }
    const undo = { key: 'u', timer: 'T', at_ms: 0, kind: 'undo' as const, u_ms: 0 }
    expect(withWaiting(told, [undo]).marks_ms).toEqual([100, 200, 300])
    const t = withWaiting(told, [undo, { key: '500', timer: 'T', at_ms: 500, kind: 'press', u_ms: 1 }])
    expect(t.marks_ms).toEqual([100, 200, 300, 500])
    expect(t.state).toBe('stopped')
  })
  it('shows no value of before to presses that follow one that is taken back', () => {
    const one = { phases: [{ id: '', name: '', counts: true }], marks_ms: [100, 600], value: 0.5 }
    const press = (kind: 'press' | 'undo', at_ms: number) => ({ key: kind, timer: 'T', at_ms, kind, u_ms: 1 })
    const t = withWaiting({ ...armed, ...one, state: 'stopped' }, [press('undo', 600), press('press', 900)])
    expect(t).toMatchObject({ state: 'stopped', marks_ms: [100, 900], value: null })
  })
})
