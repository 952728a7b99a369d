/** Scale is the ln of the ends of an axis of factors. */
export type Scale = { low: number; high: number }

/** around is a scale on which all factors lie, with 1 and some room at both ends. */
export function around(factors: number[]): Scale {
  const all = [0, ...factors.filter((f) => f > 0).map(Math.log)]
  const low = Math.min(...all)
  const high = Math.max(...all)
  const room = Math.max(0.1, (high - low) * 0.05)
  return { low: low - room, high: high + room }
}

/** place is where a factor lies on a scale, from 0 to 1. */
export const place = (s: Scale, factor: number) => Math.min(1, Math.max(0, (Math.log(factor) - s.low) / (s.high - s.low)))

/** ticks are round factors on a scale. */
export const ticks = (s: Scale) => [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500].filter((t) => Math.log(t) >= s.low && Math.log(t) <= s.high)
