import { describe, expect, it } from 'vitest'
import type { Test } from '../api/client'
import type { CloserRun } from '../closer/figures'
import { behind, countedBy, fair, finished, lengthOf, racer, racersOf } from './race'

const test: Test = {
  id: 't', kind: 'timed', name: 'Cold start', unit: 's', better: 'lower',
  phases: [{ id: 'login', name: 'to the sign-in' }, { id: 'typing', name: 'password', counts: false }, { id: 'desktop', name: 'to a desktop' }],
}
const run = (id: string, value: number, phases?: Record<string, number>): CloserRun => ({
  id, test: 't', sitting: 's', value, method: 'stopwatch', set_aside: null, cliff: null, keep_up: null, tiers: null, mb_s: null, files_s: null, ...(phases ? { phases } : {}),
})
const slow = racer(test, 'then', run('a', 92, { login: 41, typing: 8, desktop: 51 }))
const quick = racer(test, 'now', run('b', 36, { login: 16, typing: 6, desktop: 20 }))

describe('racer', () => {
  it('lays phases out one after another, what does not count as well', () => {
    expect(slow.pieces.map((p) => [p.from, p.to])).toEqual([[0, 41], [41, 49], [49, 100]])
    expect(slow.lasts).toBe(100)
    expect(racer({ ...test, phases: [] }, 'x', run('c', 7)).pieces).toEqual([{ id: '', name: 'Cold start', counts: true, from: 0, to: 7 }])
  })
  it('has a clock that waits where nothing counts', () => {
    expect(countedBy(slow, 41)).toBe(41)
    expect(countedBy(slow, 45)).toBe(41)
    expect(countedBy(slow, 60)).toBe(52)
    expect(countedBy(slow, 1000)).toBe(92)
  })
})

describe('fair', () => {
  it('gives what does not count the same length, so that what counts decides', () => {
    const typist = racer(test, 'trial', run('c', 35, { login: 16, typing: 30, desktop: 19 }))
    const raced = fair([quick, typist])
    expect(raced.map((r) => r.lasts)).toEqual([42, 41])
    expect(behind(raced[0]!, raced)).toBe(1)
    expect(countedBy(raced[1]!, 41)).toBe(35)
    expect(fair([racer({ ...test, phases: [] }, 'x', run('d', 7))])[0]!.lasts).toBe(7)
  })
})

describe('a race', () => {
  it('lasts as long as its slowest, and says how long that one still runs', () => {
    expect(lengthOf([slow, quick])).toBe(100)
    expect(finished(quick, 42)).toBe(true)
    expect(finished(slow, 42)).toBe(false)
    expect(behind(slow, [slow, quick])).toBe(58)
    expect(behind(quick, [slow, quick])).toBe(0)
  })
  it('takes the middle run of each setup, and leaves out who has none', () => {
    const closer = { test, sides: [{ setup: 'then', runs: [run('a', 90), run('b', 99), run('c', 95)] }, { setup: 'now', runs: [] }] }
    const racers = racersOf(closer, ['then', 'now', 'trial1'])
    expect(racers.map((r) => r.run.id)).toEqual(['c'])
  })
})

describe('a race between two sittings of one setup', () => {
  it('has a racer for each', () => {
    const closer = { test, sides: [{ setup: 'now', runs: [{ ...run('a', 50), sitting: 's1' }, { ...run('b', 30), sitting: 's2' }] }] }
    expect(racersOf(closer, ['s1', 'now@s2']).map((r) => [r.setup, r.value])).toEqual([['s1', 50], ['now@s2', 30]])
    expect(racersOf(closer, ['now@s9', 'then@s1'])).toEqual([])
  })
})
