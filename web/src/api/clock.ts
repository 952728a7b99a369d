import { useEffect, useState } from 'react'
import { client, data } from './client'

/**
 * Exchange is one question for the bench's time, with the page's own time before and after, ms, and how far the device's time of
 * day was ahead of the page's.
 */
export type Exchange = { sent: number; got: number; server: number; ahead: number }

/** Lined is the offset of the bench's clock from the page's, and its uncertainty, ms. */
export type Lined = { offset: number; bound: number }

/** drift is the largest drift of two clocks, as a share: one poor quartz against another. */
const drift = 200e-6

/** slept is how far the time of day may move against the page's clock before it is clear that the device slept, or was set, ms; some browsers tell both in coarse steps. */
const slept = 250

/** tooFar is the largest uncertainty of the bench's time, ms; beyond it a time is useless. */
const tooFar = 2000

/** forget is the age beyond which an exchange is dropped, ms. */
const forget = 60_000

/**
 * lined returns the offset of the bench's clock at a time of the page's, from the most precise exchange: its answer can be
 * wrong by no more than half its round trip, whatever way the delay lies, and by what the clocks drift since then.
 */
export function lined(exchanges: Exchange[], now: number): Lined {
  let best: Lined = { offset: 0, bound: Infinity }
  for (const e of exchanges) {
    const bound = (e.got - e.sent) / 2 + drift * Math.max(0, now - e.got)
    if (bound < best.bound) best = { offset: e.server - (e.sent + e.got) / 2, bound }
  }
  return best
}

/** pageNow is the page's own clock in ms, which never jumps; on many devices it is stopped while they sleep. */
export const pageNow = () => performance.timeOrigin + performance.now()

/** Clock synchronises the page's clock with the bench's and keeps the exchanges of the last minute. */
export class Clock {
  exchanges: Exchange[] = []
  private readonly ask: () => Promise<number>
  private readonly now: () => number
  private readonly day: () => number

  /** now is the page's clock, day the device's time of day. */
  constructor(ask: () => Promise<number>, now: () => number = pageNow, day: () => number = Date.now) {
    this.ask = ask
    this.now = now
    this.day = day
  }

  private ahead() {
    return this.day() - this.now()
  }

  /** lineUp makes several exchanges; lost ones, and those during which the device slept, are left out. */
  async lineUp(times = 5): Promise<void> {
    for (let i = 0; i < times; i++) {
      const [sent, before] = [this.now(), this.ahead()]
      try {
        const server = await this.ask()
        const [got, ahead] = [this.now(), this.ahead()]
        if (Math.abs(ahead - before) > slept) continue
        const e = { sent, got, server, ahead }
        this.exchanges = [...this.exchanges.filter((o) => got - o.got < forget && !contradict(o, e)), e]
      } catch {
        // The connection is lost; the earlier exchanges still count.
      }
    }
  }

  /** at returns the offset at a recent time of the page's; its uncertainty is infinite if it isn't known well enough. */
  at(now: number): Lined {
    const ahead = this.ahead()
    const l = lined(
      this.exchanges.filter((e) => Math.abs(e.ahead - ahead) <= slept),
      now,
    )
    return l.bound <= tooFar ? l : { ...l, bound: Infinity }
  }

  /** dayAt is the device's time of day at a time of the page's, which outlasts a sleep and a page that is loaded again. */
  dayAt(now: number): number {
    return now + this.ahead()
  }

  /** ofDay is how the clocks lay at a time of day of the device's, and that time on the bench's clock. */
  ofDay(day: number): Lined & { at: number } {
    const now = day - this.ahead()
    const l = this.at(now)
    return { ...l, at: now + l.offset }
  }
}

/** contradict reports whether two exchanges contradict each other: one of the clocks has jumped between them. */
function contradict(a: Exchange, b: Exchange): boolean {
  const offset = (e: Exchange) => e.server - (e.sent + e.got) / 2
  const half = (e: Exchange) => (e.got - e.sent) / 2
  return Math.abs(offset(a) - offset(b)) > half(a) + half(b) + drift * Math.abs(b.got - a.got) + 1
}

/** again is how often the clocks are synchronised while a timer is open, ms. */
const again = 10_000

/** useClock is the bench's clock on this page, synchronised repeatedly while it is shown. */
export function useClock(): Clock {
  const [clock] = useState(() => new Clock(async () => (await data(client.GET('/api/clock'))).ms))
  const [, setLined] = useState(0)
  useEffect(() => {
    let gone = false
    const line = (times: number) => void clock.lineUp(times).then(() => !gone && setLined((n) => n + 1))
    line(6)
    const timer = setInterval(() => line(2), again)
    // The device may have slept.
    const back = () => document.visibilityState === 'visible' && line(6)
    document.addEventListener('visibilitychange', back)
    return () => {
      gone = true
      clearInterval(timer)
      document.removeEventListener('visibilitychange', back)
    }
  }, [clock])
  return clock
}
