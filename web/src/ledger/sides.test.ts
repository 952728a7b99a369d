import { describe, expect, it } from 'vitest'
import type { View } from '../api/client'
import { remedied, setupOfSide } from './sides'

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
    expect(setupOfSide('now@s5')).toBe('now')
  })
  it('is the one at which something was found, where it is at one alone', () => {
    expect(remedied(view([]), ['then', 'now'], { then: '', with: '71 °C' })).toBe(1)
    expect(remedied(view([]), ['then', 'now'], { then: '61 °C', with: '' })).toBe(0)
    expect(remedied(view(['old-drive-out']), ['then', 'now'], { then: '61 °C', with: '' })).toBeUndefined()
    expect(remedied(view([]), ['then', 'now'], { then: 'battery', with: 'mains' })).toBe(0)
  })
  it('is none where neither can be measured any more', () => expect(remedied(view(['old-drive-out']), ['then', 'then@s1'])).toBeUndefined())
})
