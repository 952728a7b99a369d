import { client, data } from './client'

/** Exchange is one question for the bench's time, with the page's own time before and after, ms. */
export type Exchange = { sent: number; got: number; server: number }

/**
 * offsetOf returns what to add to the page's clock to have the bench's, ms, from the exchange that came back soonest: its
 * answer can be wrong by no more than half its round trip.
 */
export function offsetOf(exchanges: Exchange[]): number {
  const best = exchanges.reduce((a, b) => (b.got - b.sent < a.got - a.sent ? b : a))
  return best.server - (best.sent + best.got) / 2
}

/** pageNow is the page's own clock in ms, which never jumps. */
export const pageNow = () => performance.timeOrigin + performance.now()

/** lineUp asks the bench several times and returns the offset of its clock, ms. */
export async function lineUp(times = 5): Promise<number> {
  const exchanges: Exchange[] = []
  for (let i = 0; i < times; i++) {
    const sent = pageNow()
    const { ms } = await data(client.GET('/api/clock'))
    exchanges.push({ sent, got: pageNow(), server: ms })
  }
  return offsetOf(exchanges)
}
