// @vitest-environment jsdom
import { describe, expect, it } from 'vitest'
import { Clock, lined } from './clock'

describe('lined', () => {
  it('takes the exchange that came back soonest', () => {
    const exchanges = [
      { sent: 0, got: 800, server: 10_700, ahead: 0 },
      { sent: 1000, got: 1004, server: 11_002, ahead: 0 },
      { sent: 2000, got: 2400, server: 12_350, ahead: 0 },
    ]
    expect(lined(exchanges, 2400).offset).toBe(10_000)
    expect(lined(exchanges, 2400).bound).toBeCloseTo(2 + 200e-6 * 1396)
    expect(lined([], 0).bound).toBe(Infinity)
  })
  it('is wrong by at most half the best round trip, whatever way the delay lies', () => {
    for (let there = 0; there <= 40; there += 5) {
      const sent = 500
      const { offset, bound } = lined([{ sent, got: sent + 40, server: sent + there + 3000, ahead: 0 }], sent + 40)
      expect(Math.abs(offset - 3000)).toBeLessThanOrEqual(bound)
    }
  })
})

/** seeded is a small generator of numbers in 0…1, so that a trial can be repeated. */
function seeded(seed: number) {
  let s = seed * 2654435761
  return () => {
    s = (Math.imul(s ^ (s >>> 15), 0x2c1b3c6d) + 0x9e3779b9) | 0
    return ((s ^ (s >>> 13)) >>> 0) / 2 ** 32
  }
}

/**
 * A device whose clock is wrong by up to 3 s and drifts by up to 100 ppm, on a line with delays of 0 to 800 ms, jittered, and
 * asymmetric by up to 200 ms. Its presses are exact; what the clocks leave is what is tried here.
 */
async function trial(seed: number): Promise<{ error: number; stated: number }> {
  const random = seeded(seed)
  let truth = 1_000_000 * random() // ms
  const wrong = (random() - 0.5) * 6000
  const drifts = (random() - 0.5) * 2 * 100e-6
  const base = 600 * random()
  const skew = 200 * random()
  const own = () => truth + wrong + drifts * truth
  const clock = new Clock(async () => {
    truth += Math.min(800, base / 2 + 100 * random() ** 4 + skew * random()) // there
    const server = truth
    truth += Math.min(800, base / 2 + 100 * random() ** 4) // and back
    return server
  }, own, own)
  await clock.lineUp(6)
  const press = () => {
    const at = own()
    const l = clock.at(at)
    return { at: at + l.offset, u: l.bound / Math.sqrt(3) }
  }
  truth += 2000 * random()
  const began = truth
  const start = press()
  for (const end = truth + 20_000 + 60_000 * random(); truth < end; ) {
    truth += 10_000 * random()
    await clock.lineUp(2)
  }
  const stop = press()
  return { error: Math.abs(stop.at - start.at - (truth - began)), stated: 2 * Math.hypot(start.u, stop.u) }
}

describe('Clock', () => {
  it('states an uncertainty that holds the truth in 95 of 100 trials and more', async () => {
    let held = 0
    let worst = 0
    for (let seed = 1; seed <= 300; seed++) {
      const { error, stated } = await trial(seed)
      if (error <= stated) held++
      worst = Math.max(worst, error)
    }
    expect(held).toBeGreaterThanOrEqual(0.95 * 300)
    expect(worst).toBeLessThan(500)
  })
  it('goes on with what it knows when the line is down', async () => {
    let down = false
    const clock = new Clock(
      () => (down ? Promise.reject(new Error('down')) : Promise.resolve(5000)),
      () => 1000,
      () => 1000,
    )
    await clock.lineUp(1)
    down = true
    await clock.lineUp(3)
    expect(clock.at(1000)).toEqual({ offset: 4000, bound: 0 })
  })
  /** Two clocks of which the page's is stopped while the device sleeps. */
  function device() {
    const d = { truth: 50_000, slept: 0, wrong: 3000, slow: 10, asked: 0 }
    const page = () => d.truth - d.slept
    const clock = new Clock(
      () => {
        d.asked++
        d.truth += d.slow
        return Promise.resolve(d.truth)
      },
      page,
      () => d.truth + d.wrong,
    )
    const sleep = (ms: number) => {
      d.truth += ms
      d.slept += ms
    }
    return { d, page, clock, sleep }
  }
  it('knows nothing any more after the device has slept, until it is lined up again', async () => {
    const { d, page, clock, sleep } = device()
    expect(clock.at(page()).bound).toBe(Infinity)
    await clock.lineUp(3)
    const before = clock.at(page())
    expect(page() + before.offset - d.truth).toBeCloseTo(5)
    sleep(120_000)
    expect(clock.at(page()).bound).toBe(Infinity)
    // A press in the meantime has the device's time of day, which is worked out later.
    const [press, truth] = [clock.dayAt(page()), d.truth]
    d.truth += 4000
    await clock.lineUp(3)
    const found = clock.ofDay(press)
    expect(Math.abs(found.at - truth)).toBeLessThanOrEqual(found.bound)
    expect(found.bound).toBeLessThan(20)
  })
  it('leaves an exchange out over which the device slept', async () => {
    const { d, page, clock, sleep } = device()
    const asked = new Clock(
      () => {
        const server = d.truth
        sleep(60_000)
        return Promise.resolve(server)
      },
      page,
      () => d.truth,
    )
    await asked.lineUp(2)
    expect(asked.exchanges).toEqual([])
    expect(clock.exchanges).toEqual([])
  })
  it('forgets what a later exchange contradicts: the bench has slept', async () => {
    let [truth, bench] = [0, 0]
    const clock = new Clock(
      () => Promise.resolve((truth += 4) - bench),
      () => truth,
      () => truth,
    )
    await clock.lineUp(5)
    bench = 30_000
    truth += 30_000
    await clock.lineUp(1)
    expect(clock.exchanges).toHaveLength(1)
    expect(clock.at(truth).offset).toBeCloseTo(-30_000, -1)
  })
  it('counts a line that is too slow as not known', async () => {
    const { d, page, clock } = device()
    d.slow = 5000
    await clock.lineUp(1)
    expect(clock.at(page()).bound).toBe(Infinity)
  })
})
