import { describe, expect, it } from 'vitest'
import { numeral, numeralOrNone, readNumber } from './numbers'

describe('numbers that are typed', () => {
  it.each([
    ['3', 3],
    [' 2,5 ', 2.5],
    ['2.5', 2.5],
    ['', NaN],
    ['three', NaN],
  ])('reads %j', (text, n) => expect(readNumber(text)).toBe(n))
  it.each([
    ['0', true, true],
    ['2,5', true, true],
    ['', false, true],
    [' ', false, true],
    ['-1', false, false],
    ['1e999', false, false],
    ['three', false, false],
  ])('takes %j as a number: %j, or none: %j', (text, one, none) => {
    expect(numeral.safeParse(text).success).toBe(one)
    expect(numeralOrNone.safeParse(text).success).toBe(none)
  })
})
