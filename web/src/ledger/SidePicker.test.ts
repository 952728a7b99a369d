import { describe, expect, it } from 'vitest'
import type { View } from '../api/client'
import { sidesOf } from './SidePicker'

describe('sidesOf', () => {
  const view = {
    job: {
      setups: [
        { id: 'then', role: 'then' },
        { id: 'now', role: 'now' },
        { id: 'trial1', role: 'trial' },
      ],
      sittings: [
        { id: 's1', setup: 'then', conditions: {} },
        { id: 's2', setup: 'now', conditions: { power: 'mains' } },
        { id: 's3', setup: 'now', conditions: { power: 'battery' } },
        { id: 's4', setup: 'now', conditions: {} },
      ],
      runs: [{ sitting: 's1' }, { sitting: 's2' }, { sitting: 's3' }],
    },
  } as unknown as View
  it('offers every setup, and the sessions of one that has several with runs, named by what differs', () => {
    expect(sidesOf(view).map((o) => o.id)).toEqual(['then', 'now', 's2', 's3', 'trial1'])
    expect(sidesOf(view).map((o) => o.label).slice(2, 4)).toEqual(['Now: on mains', 'Now: on battery'])
    expect(sidesOf(view)[4]!.label).toBe('Trial 1')
  })
})
