// @vitest-environment jsdom
import { describe, expect, it } from 'vitest'
import { Clock } from '../api/clock'
import { Refused } from '../api/client'
import { asFarAsKnown, named, onBench, takeBack, waits, type Waiting } from './outbox'

/** device is a page whose clock is at 5 000 ms, its time of day 60 000 ms ahead; the bench's is 100 000 ms ahead. */
const device = () =>
  new Clock(
    () => Promise.resolve(105_000),
    () => 5000,
    () => 65_000,
  )

describe('a waiting press', () => {
  const own = { key: 'k', timer: 'T', kind: 'press' as const, at_ms: 64_000, u_ms: 0, own: true as const }

  it('goes as it is where the clocks were lined up', () => {
    const p = { key: 'k', timer: 'T', kind: 'press' as const, at_ms: 104_000, u_ms: 3 }
    expect(onBench(p, device())).toEqual({ at_ms: 104_000, u_ms: 3 })
  })
  it('waits for the clocks where it has just the time of day of its device', async () => {
    const clock = device()
    expect(onBench(own, clock)).toBeUndefined()
    expect(asFarAsKnown(own, clock)).toMatchObject({ key: 'k', at_ms: 4000 })
    await clock.lineUp(1)
    const sent = onBench(own, clock)
    expect(sent).toEqual({ at_ms: 104_000, u_ms: 0 })
  })
})

const press = (key: string, more: Partial<Waiting> = {}): Waiting => ({ key, timer: 'T', kind: 'press', at_ms: 1, u_ms: 1, ...more })

describe('taking back', () => {
  it('takes the device’s own last press first, as if it had never been', () => {
    expect(takeBack([press('a', { tried: true }), press('b')], 'T', 'u')?.map((p) => p.key)).toEqual(['a'])
  })
  it('follows a press that may have arrived', () => {
    expect(takeBack([press('a', { tried: true })], 'T', 'u')).toMatchObject([{ key: 'a' }, { key: 'u', kind: 'undo', timer: 'T' }])
  })
  it('leaves other timers alone', () => {
    expect(takeBack([press('a', { timer: 'earlier' })], 'T', 'u')).toBeUndefined()
  })
})

describe('a timer that is armed by its first press', () => {
  it('gives its name to all that was done to it before', () => {
    const list = [press('a', { timer: 'new 1', arm: { test: 't', sitting: 's', by: '' } }), press('b', { timer: 'new 1' }), press('c')]
    expect(named(list, 'new 1', 'T9').map((p) => [p.timer, p.arm])).toEqual([['T9', undefined], ['T9', undefined], ['T', undefined]])
  })
})

describe('a press that is refused', () => {
  const refused = (status: number) => new Refused({ message: '' }, status)
  it('waits for the network, the bench and the sign-in', () => {
    for (const status of [0, 401, 429, 500, 503]) expect(waits(refused(status))).toBe(true)
  })
  it('is told and dropped where the timer does not take it', () => {
    for (const status of [404, 409, 422]) expect(waits(refused(status))).toBe(false)
  })
})
