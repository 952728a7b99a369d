import { describe, expect, it } from 'vitest'
import { middle, spread } from './RunMarks'

describe('the runs of a side', () => {
  it('have their median in the middle', () => {
    expect(middle([92, 90, 95])).toBe(92)
    expect(middle([4, 1, 3, 2])).toBe(2.5)
  })
  it('spread by half their range', () => {
    expect(spread([90, 100, 110])).toBeCloseTo(10)
    expect(spread([90])).toBeUndefined()
    expect(spread([0, 0])).toBeUndefined()
  })
})
