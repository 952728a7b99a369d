import { describe, expect, it } from 'vitest'
import { counted, lapsOf, whatPressDoes } from './laps'

const phases = [
  { id: 'login', name: 'to the sign-in', counts: true },
  { id: 'typing', name: 'password', counts: false },
  { id: 'desktop', name: 'to a usable desktop', counts: true },
]

describe('lapsOf', () => {
  it('knows nothing before the start', () => {
    const laps = lapsOf({ phases, marks_ms: [] }, 5000)
    expect(laps.map((l) => l.state)).toEqual(['ahead', 'ahead', 'ahead'])
    expect(counted(laps)).toBe(0)
  })
  it('runs on in the phase that is under way', () => {
    const laps = lapsOf({ phases, marks_ms: [1000, 4000] }, 6500)
    expect(laps.map((l) => l.state)).toEqual(['done', 'running', 'ahead'])
    expect(laps[1]!.seconds).toBe(2.5)
    expect(counted(laps)).toBe(3)
  })
  it('is never below zero where the clocks differ a little', () => {
    expect(lapsOf({ phases, marks_ms: [1000] }, 990)[0]!.seconds).toBe(0)
  })
  it('leaves out what does not count', () => {
    expect(counted(lapsOf({ phases, marks_ms: [0, 41_200, 49_200, 100_400] }, 0))).toBeCloseTo(92.4)
  })
})

describe('whatPressDoes', () => {
  const words = (state: 'ready' | 'running' | 'stopped', marks: number, list = phases) =>
    whatPressDoes({ phases: list, marks_ms: Array<number>(marks).fill(0), state })
  it('names the phase that ends', () => {
    expect(words('ready', 0)).toContain('power button')
    expect(words('running', 1)).toBe('ends “to the sign-in”')
    expect(words('running', 2)).toBe('ends “password”')
    expect(words('running', 3)).toBe('stops at a usable desktop')
    expect(words('stopped', 4)).toBe('')
    expect(words('running', 1, [{ id: '', name: '', counts: true }])).toBe('stops')
  })
})
