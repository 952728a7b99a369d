import { describe, expect, it, test } from 'vitest'
import { againstBase, gains } from './gains'

const contrast = { a: 'now', b: 'trial1', group: 'starts', factor: 2.5, low: 2, high: 3, p: 0.001, lines: 2, holds: true, verdict: 'faster', seconds_per_week: 240 } as const
const name = (s: string) => (s === 'now' ? 'Now' : 'the quiet one')

test.each([
  ['faster', {}, 'Starts: the quiet one is 2.5 times as fast, about 4 minutes a week.'],
  ['slower', { verdict: 'slower', factor: 0.5, seconds_per_week: -70 }, 'Starts: Now is 2.0 times as fast, about a minute a week.'],
  ['nobody said how often', { seconds_per_week: null }, 'Starts: the quiet one is 2.5 times as fast.'],
  ['equal', { verdict: 'equal', group: 'games' }, 'Games: no difference.'],
  ['does not hold after all', { holds: false }, 'Starts: not certain.'],
  ['not certain', { verdict: 'not-certain', holds: false }, 'Starts: not certain.'],
] as const)('%s', (_, more, said) => {
  expect(gains([{ ...contrast, ...more }], name)).toEqual([said])
})

it('says what is not certain in one sentence', () => {
  const unsure = { ...contrast, holds: false, verdict: 'not-certain' } as const
  expect(gains([unsure, { ...unsure, group: 'programs' }, { ...contrast, group: 'files' }, { ...unsure, group: 'drive', verdict: 'equal' }], name)).toEqual([
    'Files: the quiet one is 2.5 times as fast, about 4 minutes a week.',
    'Starts, programs: not certain.',
    'The drive: no difference.',
  ])
})

describe('a drive against the base', () => {
  const cell = { setup: 'b', n: 3, centre: 20, low: 19, high: 21, bound: '', verdict: 'faster', holds: true, equal: false, single: false, factor: 2.5, findings: [] } as const
  it.each([
    [{}, '2.5 times as fast'],
    [{ verdict: 'slower', factor: 0.5 }, 'takes 2.0 times as long'],
    [{ holds: false }, '2.5 times as fast, not certain'],
    [{ single: true, holds: false }, '2.5 times as fast, measured once'],
    [{ verdict: 'too-close', factor: 1.02 }, 'too close to call'],
    [{ verdict: 'too-close', factor: 1.01, equal: true }, 'practically the same'],
    [{ verdict: 'not-comparable', factor: null }, 'not comparable'],
    [{ verdict: 'faster', factor: null }, 'faster'],
  ])('%o', (more, want) => expect(againstBase({ ...cell, ...more } as never)).toBe(want))
})
