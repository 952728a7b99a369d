import { describe, expect, it } from 'vitest'
import { phasesFrom } from './OwnTest'

describe('phasesFrom', () => {
  it('reads names between commas, and brackets as not counted', () => {
    expect(phasesFrom('to the window, (code), to the list')).toEqual([
      { id: '', name: 'to the window' },
      { id: '', name: 'code', counts: false },
      { id: '', name: 'to the list' },
    ])
    expect(phasesFrom(' , ')).toEqual([])
  })
})
