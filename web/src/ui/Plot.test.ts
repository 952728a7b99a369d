import { describe, expect, it } from 'vitest'
import { ticksOf } from './Plot'

describe('ticksOf', () => {
  it('keeps a logarithmic axis readable', () => {
    const decades = [0.1, 0.2, 0.5, 1, 2, 3, 4, 5, 10, 20, 50, 100]
    expect(ticksOf(decades, true)).toEqual([0.1, 1, 10, 100])
    expect(ticksOf([1, 2, 3, 4, 5, 6, 7, 8, 9], true)).toEqual([1, 2, 5])
    expect(ticksOf([0, 25, 50], false)).toEqual([0, 25, 50])
  })
})
