import { describe, expect, it } from 'vitest'
import { Clock } from '../api/clock'
import { asFarAsKnown, onBench } from './outbox'

/** device is a page whose clock stands at 5 000 ms, its time of day 60 000 ms ahead; the bench's is 100 000 ms ahead. */
const device = () =>
  new Clock(
    () => Promise.resolve(105_000),
    () => 5000,
    () => 65_000,
  )

describe('a waiting press', () => {
  const own = { key: 'k', kind: 'press' as const, at_ms: 64_000, u_ms: 0, own: true as const }

  it('goes as it is where the clocks were lined up', () => {
    const p = { key: 'k', kind: 'press' as const, at_ms: 104_000, u_ms: 3 }
    expect(onBench(p, device())).toEqual(p)
  })
  it('waits for the clocks where it has just the time of day of its device', async () => {
    const clock = device()
    expect(onBench(own, clock)).toBeUndefined()
    expect(asFarAsKnown(own, clock)).toMatchObject({ key: 'k', at_ms: 4000 })
    await clock.lineUp(1)
    const sent = onBench(own, clock)
    expect(sent).toEqual({ key: 'k', kind: 'press', at_ms: 104_000, u_ms: 0 })
    expect(sent).not.toHaveProperty('own')
  })
})
