import { describe, expect, it } from 'vitest'
import { around, place, ticks } from './scale'

describe('the axis of factors', () => {
  it('has twice as fast as far from the same as half as fast', () => {
    const s = around([0.5, 2])
    expect(place(s, 2) - place(s, 1)).toBeCloseTo(place(s, 1) - place(s, 0.5))
    expect(place(s, 2)).toBeLessThan(1)
    expect(place(s, 0.5)).toBeGreaterThan(0)
  })
  it('holds the same speed where all are faster, and nothing at all', () => {
    expect(place(around([4, 6]), 1)).toBeGreaterThan(0)
    expect(place(around([]), 1)).toBeCloseTo(0.5)
  })
  it('has round factors', () => expect(ticks(around([0.6, 12]))).toEqual([1, 2, 5, 10]))
  it('keeps what lies beyond at its ends', () => expect(place(around([2]), 1000)).toBe(1))
})
