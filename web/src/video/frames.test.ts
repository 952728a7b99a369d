import { describe, expect, it, onTestFinished, vi } from 'vitest'
import { Frames, type Player } from './frames'

/**
 * film is a video with frames at certain times, as browsers show it: exactly, or by the average length of the frames where the
 * clip does not say how long each lasts; each frame so many ms after its place was found;
 * the same one not again, where once says so.
 */
function film(times: number[], average = false, late = 0, once = false) {
  const mean = times.at(-1)! / (times.length - 1)
  const shownAt = (t: number) =>
    average ? (times.find((f) => f + mean > t) ?? times.at(-1)!) : (times.filter((f) => f <= t + 1e-9).at(-1) ?? times[0]!)
  let wait: ((now: number, meta: { mediaTime: number }) => void) | undefined
  let sought: (() => void) | undefined
  let now = 0
  let last: number | undefined
  const present = (t: number) => {
    if (once && shownAt(t) === last) return
    last = shownAt(t)
    wait?.(0, { mediaTime: last })
  }
  const player: Player = {
    duration: times.at(-1)! + 0.033,
    get currentTime() {
      return now
    },
    set currentTime(t) {
      const moves = t !== now
      now = t
      setTimeout(() => {
        sought?.()
        if (moves) setTimeout(() => present(t), late)
      })
    },
    requestVideoFrameCallback: (done) => {
      wait = done
      return 1
    },
    addEventListener: (_, done) => {
      sought = done
    },
  }
  /** played lets it play to a time, where it stops. */
  const played = (to: number) => {
    for (const t of times.filter((f) => f > now && f <= to)) present(t)
    now = to
  }
  return { player, played }
}

/** over steps over every frame from the first. */
async function over(times: number[], average = false) {
  const frames = new Frames(film(times, average).player)
  const seen = [await frames.seek(0)]
  while (seen.length < times.length) seen.push(await frames.next())
  return { frames, seen }
}

describe('Frames', () => {
  it.each([
    ['25 a second', Array.from({ length: 20 }, (_, i) => i / 25)],
    ['240 a second', Array.from({ length: 20 }, (_, i) => i / 240)],
    ['uneven, with lost ones', [0, 0.033, 0.048, 0.09, 0.2, 0.215, 0.23, 0.9, 0.93, 0.945, 0.96]],
    ['a slide a second', [0, 1, 2, 3, 4]],
  ])('meets every frame once: %s', async (_, times) => {
    const { seen } = await over(times)
    expect(seen).toEqual(times)
  })
  it('meets every frame where the browser goes by averages', async () => {
    const times = [0, 0.015, 0.037, 0.066, 0.1, 0.115, 0.137, 0.166, 0.202, 0.217]
    const { frames, seen } = await over(times, true)
    expect(seen).toEqual(times)
    expect(await frames.show(0.1)).toBe(0.1)
    const back = [await frames.previous(), await frames.previous(), await frames.previous()]
    expect(back).toEqual([0.066, 0.037, 0.015])
  })
  it('goes back one by one, and stays at the beginning', async () => {
    const times = [0, 0.033, 0.048, 0.09]
    const { frames } = await over(times)
    expect([await frames.previous(), await frames.previous(), await frames.previous(), await frames.previous()]).toEqual([0.048, 0.033, 0, 0])
  })
  it('says how long the frame before was', async () => {
    const { frames } = await over([0, 0.033, 0.048, 0.09])
    expect((await frames.lookAt()).frame).toBeCloseTo(0.042)
    expect(frames.at).toBe(0.09)
  })
  it('waits for a picture that comes late, and takes none for another', async () => {
    const frames = new Frames(film([0, 1, 2, 3], false, 700).player)
    expect(await frames.seek(1)).toBe(1)
    expect(await frames.seek(2.5)).toBe(2)
  })
  it('does not wait long each time where a browser shows the same frame but once', async () => {
    vi.useFakeTimers()
    onTestFinished(() => void vi.useRealTimers())
    const { player } = film([0, 1, 2], false, 0, true)
    const frames = new Frames(player)
    const seen: number[] = []
    void (async () => {
      for (const t of [1.2, 1.3, 1.4, 2]) seen.push(await frames.seek(t))
    })()
    await vi.advanceTimersByTimeAsync(3100)
    expect(seen).toEqual([1, 1])
    await vi.advanceTimersByTimeAsync(500)
    expect(seen).toEqual([1, 1, 1, 2])
  })
  it('knows the frame at which it stopped playing, and steps on from there', async () => {
    const times = [0, 0.033, 0.048, 0.09, 0.13]
    const { player, played } = film(times)
    const told: number[] = []
    const frames = new Frames(player, (at) => told.push(at))
    await frames.seek(0)
    told.length = 0
    played(0.1)
    expect(told).toEqual([0.033, 0.048, 0.09])
    expect(await frames.rest()).toBe(0.09)
    expect(await frames.next()).toBe(0.13)
    expect(await frames.seek(player.currentTime)).toBe(0.13)
  })
  it('believes a browser that does not tell its frames', async () => {
    const { player } = film([0, 1, 2])
    delete player.requestVideoFrameCallback
    const frames = new Frames(player)
    expect(await frames.seek(0.5)).toBe(0.5)
  })
})
