import { describe, expect, it } from 'vitest'
import { Frames, type Player } from './frames'

/** film is a video with frames at certain times, as a browser shows it. */
function film(times: number[]): Player {
  let wait: ((now: number, meta: { mediaTime: number }) => void) | undefined
  let sought: (() => void) | undefined
  let now = 0
  return {
    duration: times.at(-1)! + 0.033,
    get currentTime() {
      return now
    },
    set currentTime(t) {
      now = t
      setTimeout(() => {
        sought?.()
        const at = times.filter((f) => f <= t + 1e-9).at(-1) ?? times[0]!
        wait?.(0, { mediaTime: at })
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
}

/** over steps over every frame from the first. */
async function over(times: number[]) {
  const frames = new Frames(film(times))
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
})
