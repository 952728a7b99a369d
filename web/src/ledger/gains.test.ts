import { expect, test } from 'vitest'
import { gain } from './gains'

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
  expect(gain({ ...contrast, ...more }, name)).toBe(said)
})
