import { describe, expect, it } from 'vitest'
import type { Schemas } from '../api/client'
import { facts } from './days'

const sitting = (more: object) => ({ id: 's', setup: 'now', conditions: {}, ...more }) as unknown as Schemas['Sitting']

describe('the drive on both days', () => {
  it('shows nothing that is known of neither', () => expect(facts(sitting({}), sitting({ health: {} }))).toEqual([]))
  it('says of what is known on one day that it is not known on the other', () =>
    expect(facts(sitting({ conditions: { fill_pct: 61.4 } }), sitting({}))).toEqual([{ label: 'Used space', then: '61 %', now: 'not known', worse: false }]))
  it.each([
    ['reallocated', 'Reallocated sectors', 0, 8, true],
    ['pending', 'Pending sectors', 8, 8, false],
    ['wear_pct', 'Wear', 3, 4, true],
    ['power_on_hours', 'Power-on hours', 12000, 13440, false], // that is no fault
  ])('marks %s that grew', (member, label, then, now, worse) => {
    const [f] = facts(sitting({ health: { [member]: then } }), sitting({ health: { [member]: now } }))
    expect([f!.label, f!.worse]).toEqual([label, worse])
  })
})
