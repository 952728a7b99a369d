type Wait = { unit: string; then: number | null; now: number | null }

/** longer is the longer side of a figure. */
export const longer = (f: Wait) => Math.max(f.then ?? 0, f.now ?? 0)

/** scaleEnd is where the scale ends on which all waits stand, s: before the longest where that is over eight times as long as the next, whose bar is then broken. */
export function scaleEnd(waits: Wait[]): number {
  const all = waits.filter((f) => f.unit === 's').map(longer).sort((a, b) => b - a)
  const [most = 0, next = 0] = all
  return next > 0 && most > 8 * next ? 1.5 * next : most
}
