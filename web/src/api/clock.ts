import { useEffect, useState } from 'react'
import { client, data } from './client'

/** Exchange is one question for the bench's time, with the page's own time before and after, ms. */
export type Exchange = { sent: number; got: number; server: number }

/** Lined is how far the bench's clock is from the page's: what to add, and how far that may be off, ms. */
export type Lined = { offset: number; bound: number }

/** drift is how far two clocks run apart at most, as a share: a poor quartz against another. */
const drift = 200e-6

/** forget is how old an exchange may be before it says too little, ms. */
const forget = 60_000

/**
 * lined returns the offset of the bench's clock at a time of the page's, from the exchange that says most: its answer can be
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

/** pageNow is the page's own clock in ms, which never jumps. */
export const pageNow = () => performance.timeOrigin + performance.now()

/** Clock lines the page's clock up with the bench's and keeps the exchanges of the last minute. */
export class Clock {
  exchanges: Exchange[] = []
  private readonly ask: () => Promise<number>
  private readonly now: () => number

  constructor(ask: () => Promise<number>, now: () => number = pageNow) {
    this.ask = ask
    this.now = now
  }

  /** lineUp makes several exchanges; one that is lost is left out. */
  async lineUp(times = 5): Promise<void> {
    for (let i = 0; i < times; i++) {
      const sent = this.now()
      try {
        const server = await this.ask()
        const got = this.now()
        this.exchanges = [...this.exchanges.filter((e) => got - e.got < forget), { sent, got, server }]
      } catch {
        // The line is down; what is known already is still known.
      }
    }
  }

  /** at tells how the clocks lie at a time of the page's. */
  at(now: number): Lined {
    return lined(this.exchanges, now)
  }
}

/** again is how often the clocks are lined up while a timer is open, ms. */
const again = 10_000

/** useClock is the bench's clock on this page, lined up again and again while it is shown. */
export function useClock(): Clock {
  const [clock] = useState(() => new Clock(async () => (await data(client.GET('/api/clock'))).ms))
  const [, setLined] = useState(0)
  useEffect(() => {
    let gone = false
    const line = (times: number) => void clock.lineUp(times).then(() => !gone && setLined((n) => n + 1))
    line(6)
    const timer = setInterval(() => line(2), again)
    return () => {
      gone = true
      clearInterval(timer)
    }
  }, [clock])
  return clock
}
