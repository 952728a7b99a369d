import { describe, expect, it } from 'vitest'
import type { View } from '../api/client'
import { oddSitting, partsOf, remedied } from './sides'

const view = (gates: string[]) =>
  ({
    job: {
      job: { gates: gates.map((name) => ({ name })) },
      setups: [
        { id: 'then', role: 'then' },
        { id: 'now', role: 'now' },
        { id: 'trial1', role: 'trial' },
      ],
    },
  }) as unknown as View

describe('the side that a remedy measures', () => {
  it('is the first while its drive is in', () => expect(remedied(view([]), ['then', 'now'])).toBe(0))
  it('is the second once the old drive is out', () => expect(remedied(view(['old-drive-out']), ['then', 'now'])).toBe(1))
  it('is of the sides that are compared, whichever they are', () => {
    expect(remedied(view(['old-drive-out']), ['trial1', 'now'])).toBe(0)
    expect(remedied(view(['old-drive-out']), ['trial1', 'then'])).toBe(0)
  })
  it('is the one at which something was found, where it is at one alone', () => {
    expect(remedied(view([]), ['then', 'now'], { then: '', with: '71 °C' })).toBe(1)
    expect(remedied(view([]), ['then', 'now'], { then: '61 °C', with: '' })).toBe(0)
    expect(remedied(view(['old-drive-out']), ['then', 'now'], { then: '61 °C', with: '' })).toBeUndefined()
    expect(remedied(view([]), ['then', 'now'], { then: 'battery', with: 'mains' })).toBe(0)
  })
  it('is none where neither can be measured any more', () => expect(remedied(view(['old-drive-out']), ['then', 'then@s1'])).toBeUndefined())
})

describe('a side’s name', () => {
  const named = { job: { setups: [{ id: 'now' }, { id: 'a/b' }, { id: 'both' }], sittings: [{ id: 's5', setup: 'now' }, { id: 'both', setup: 'now' }] } } as unknown as View
  it.each([
    ['now', 'now', ''],
    ['s5', 'now', 's5'],
    ['now/s5', 'now', 's5'],
    ['now@s5', 'now', 's5'],
    ['a/b', 'a/b', ''],
    ['both', 'both', ''],
    ['moon', 'moon', ''],
  ])('%s', (side, setup, sitting) => expect(partsOf(named, side)).toEqual({ setup, sitting }))
})

describe('the session that is made a question of its own', () => {
  const sessions = {
    job: {
      sittings: [
        { id: 's1', setup: 'then', conditions: { power: 'mains' } },
        { id: 's2', setup: 'then', conditions: { power: 'battery' } },
      ],
      runs: [
        { id: 'a', sitting: 's1', test: 't' },
        { id: 'b', sitting: 's2', test: 't' },
        { id: 'c', sitting: 's2', test: 't' },
        { id: 'd', sitting: 's2', test: 't', set_aside: { reason: 'wrong press' } },
        { id: 'e', sitting: 's2', test: 'other' },
      ],
    },
  } as unknown as View
  const found = (rule: string, ...runs: string[]) => oddSitting(sessions, { rule, runs, lines: ['t'] })?.id
  it('is the one all of whose runs disagree with the others', () => expect(found('power', 'b', 'c')).toBe('s2'))
  it('is none where only some of its runs do', () => expect(found('power', 'b')).toBeUndefined())
  it('is none where two sessions do', () => expect(found('power', 'a', 'b', 'c')).toBeUndefined())
  it('is none where it is not about conditions', () => expect(found('warmth', 'b', 'c')).toBeUndefined())
  it('is none where nothing disagrees within a side', () => expect(found('power')).toBeUndefined())
})
