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
        { id: 's1', setup: 'then' },
        { id: 's2', setup: 'now', started: '2026-03-01T12:00:00Z' },
        { id: 's3', setup: 'now', started: '2026-09-01T12:00:00Z' },
        { id: 's4', setup: 'now' },
      ],
      runs: [{ sitting: 's1' }, { sitting: 's2' }, { sitting: 's3' }],
    },
  } as unknown as View
  it('offers every setup, and the sittings of one that has several with runs', () => {
    expect(sidesOf(view).map((o) => o.id)).toEqual(['then', 'now', 'now@s2', 'now@s3', 'trial1'])
    expect(sidesOf(view)[3]!.label).toBe('Now, session 2 (1 September 2026)')
    expect(sidesOf(view)[4]!.label).toBe('Trial 1')
  })
})
