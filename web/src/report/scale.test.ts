import { describe, expect, it } from 'vitest'
import { scaleEnd } from './scale'

const wait = (then: number | null, now: number | null, unit = 's') => ({ unit, then, now })

describe('the scale of all waits', () => {
  it.each([
    ['nothing', [], 0],
    ['one wait', [wait(90, 15)], 90],
    ['the longest of several', [wait(90, 15), wait(14, 2)], 90],
    ['one that got slower', [wait(15, 90)], 90],
    ['over eight times the next', [wait(90, 15), wait(10, 2)], 15],
    ['just eight times the next', [wait(80, 15), wait(10, 2)], 80],
    ['what is no time', [wait(9000, 1, 'IOPS'), wait(4, null)], 4],
  ])('%s', (_, waits, end) => expect(scaleEnd(waits)).toBe(end))
})
