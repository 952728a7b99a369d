/**
 * Frames goes over a video frame by frame, whatever its frame rate and however uneven it is: the browser itself says the time
 * of each frame it shows.
 */
export type Shown = { at: number; frame: number }

/** Player is what of a video element is needed. */
export type Player = Pick<HTMLVideoElement, 'currentTime' | 'duration'> & {
  requestVideoFrameCallback?: (done: (now: number, meta: { mediaTime: number }) => void) => number
  addEventListener: (type: 'seeked', done: () => void, options: { once: true }) => void
}

/** How long a frame that is to be shown is waited for, ms. */
const patience = 400

/** Steps that are tried to get past a frame, s: a frame that is shown for longer than the last of them is the end. */
const tries = [1 / 240, 1 / 120, 1 / 60, 1 / 30, 1 / 20, 1 / 10, 1 / 5, 1 / 2, 1, 2]

const tiny = 1e-4

export class Frames {
  private readonly video: Player
  /** at is the time of the frame that is shown, s; undefined before the first. */
  at: number | undefined
  private period = 1 / 30 // how long frames lasted lately

  constructor(video: Player) {
    this.video = video
  }

  /** seek shows the frame at a time and returns the frame's own time. */
  async seek(t: number): Promise<number> {
    const to = Math.max(0, Math.min(t, Number.isFinite(this.video.duration) ? this.video.duration : t))
    const shown = new Promise<number | undefined>((done) => {
      if (!this.video.requestVideoFrameCallback) return done(undefined)
      this.video.requestVideoFrameCallback((_, meta) => done(meta.mediaTime))
      setTimeout(() => done(undefined), patience)
    })
    const sought = new Promise<void>((done) => {
      this.video.addEventListener('seeked', done, { once: true })
      setTimeout(done, 4 * patience)
    })
    this.video.currentTime = to
    await sought
    // Without an answer the frame is still the one that was shown, or the browser does not tell: then the time is what was asked for.
    this.at = (await shown) ?? (this.video.requestVideoFrameCallback ? (this.at ?? to) : to)
    return this.at
  }

  /** next shows the next frame; at the end it stays. */
  async next(): Promise<number> {
    const from = this.at ?? (await this.seek(this.video.currentTime))
    const end = this.video.duration
    for (const step of [this.period * 1.05, ...tries.filter((s) => s > this.period * 1.05)]) {
      const to = Math.min(from + step, end)
      let at = await this.seek(to)
      if (at > from + tiny) {
        // A step that was too long may have passed frames: close in on the first one.
        for (let low = from, left = 24; left > 0; left--) {
          if ((await this.seek(at - tiny)) <= from + tiny) break
          const between = await this.seek((low + at) / 2)
          if (between <= from + tiny) low = (low + at) / 2
          else at = between
        }
        this.period = at - from
        return this.seek(at + tiny)
      }
      if (to >= end) break
    }
    return this.seek(from + tiny)
  }

  /** previous shows the frame before. */
  async previous(): Promise<number> {
    const from = this.at ?? (await this.seek(this.video.currentTime))
    return this.seek(Math.max(0, from - tiny))
  }

  /** lookAt is the frame that is shown, with how long the one before it was: something became visible within that. */
  async lookAt(): Promise<Shown> {
    const at = this.at ?? (await this.seek(this.video.currentTime))
    const before = await this.seek(Math.max(0, at - tiny))
    await this.seek(at + tiny)
    return { at, frame: at - before > tiny ? at - before : this.period }
  }
}
