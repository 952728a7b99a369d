import { describe, expect, it } from 'vitest'
import { offsetOf } from './clock'

describe('offsetOf', () => {
  it('takes the exchange that came back soonest', () => {
    expect(
      offsetOf([
        { sent: 0, got: 800, server: 10_700 },
        { sent: 1000, got: 1004, server: 11_002 },
        { sent: 2000, got: 2400, server: 12_350 },
      ]),
    ).toBe(10_000)
  })
  it('is wrong by at most half the best round trip, whatever way the delay lies', () => {
    for (let there = 0; there <= 40; there += 5) {
      const sent = 500
      const offset = offsetOf([{ sent, got: sent + 40, server: sent + there + 3000 }])
      expect(Math.abs(offset - 3000)).toBeLessThanOrEqual(20)
    }
  })
})
