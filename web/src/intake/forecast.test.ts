import { describe, expect, it } from 'vitest'
import { causes, range, record, unsaid, years } from './forecast'

const wait = { test: 't', then: 90, now_low: 13.6, now_middle: 15, now_high: 18.2, jobs: 12, class: 'test', floor: null } as const
const candidate = { new: 'nvme', kind: 'nvme', capacity_bytes: 0, price: null, price_per_tb: null, payback_weeks: null, waits: [], hours_per_year: null, hardly_felt: [] } as Parameters<typeof years>[0]

describe('a forecast in words', () => {
  it.each([
    [{}, '14 to 18 s instead of 90 s'],
    [{ then: null }, '14 to 18 s'],
    [{ now_low: 0.52, now_high: 0.81, then: 2.04 }, '0.5 to 0.8 s instead of 2.0 s'],
    [{ now_low: 100, now_high: 150, then: 300 }, '100 s to 2.5 min instead of 5.0 min'],
  ])('%o', (more, want) => expect(range({ ...wait, ...more })).toBe(want))
  it('says what a year saves, and when it has paid for itself', () => {
    expect(years(candidate)).toBe('')
    expect(years({ ...candidate, hours_per_year: { low: 6.5, high: 12.4 } })).toBe('Saves 6.5 to 12 hours a year.')
    expect(years({ ...candidate, hours_per_year: { low: -1, high: 2 } })).toBe('No clear saving of time.')
    expect(years({ ...candidate, hours_per_year: { low: 6, high: 12 }, payback_weeks: { low: 40.6, high: 49.2 } })).toBe('Saves 6.0 to 12 hours a year. It pays for itself in 41 to 49 weeks.')
  })
  it('names what nothing is said of once for each reason, and nothing that is said of another drive', () => {
    const few = 'fewer than five jobs'
    const refused = [{ test: 'a', why: few }, { test: 't', why: few }, { test: 'b', why: few }, { test: 'c', why: 'not measured' }]
    const f = { candidates: [{ ...candidate, waits: [wait] }], refused } as unknown as Parameters<typeof unsaid>[0]
    expect(unsaid(f)).toEqual([{ why: few, tests: ['a', 'b'] }, { why: 'not measured', tests: ['c'] }])
  })
  it('says how often such forecasts were right, once that is known', () => {
    expect(record({ forecasts: 19, held: 15, share: null, classes: [] })).toContain('not known yet')
    expect(record({ forecasts: 40, held: 33, share: 0.825, classes: [] })).toContain('33 of 40 such forecasts were right (83 %).')
  })
  it('says plainly where another cause is likely', () => {
    expect(causes(['processor-busy'])[0]).toContain('processor was busy')
    expect(causes([])).toEqual([])
  })
})
