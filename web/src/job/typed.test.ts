import { describe, expect, it } from 'vitest'
import { readTyped } from './typed'

describe('readTyped', () => {
  it.each([
    ['92.4', 92.4, 's'],
    ['92,4', 92.4, 's'],
    ['1.5 min', 1.5, 'min'],
    ['830Mbit/s', 830, 'Mbit/s'],
    ['1.234,5', 1234.5, 's'],
    ['1,234.5 ms', 1234.5, 'ms'],
    ['1 234,5', 1234.5, 's'],
    ['-3', -3, 's'],
  ])('%s', (text, value, unit) => {
    expect(readTyped(text, 's')).toEqual({ value, unit })
  })
  it.each(['', 'fast', '1,2,3', 's 12'])('refuses %s', (text) => {
    expect(readTyped(text, 's')).toBeUndefined()
  })
})
