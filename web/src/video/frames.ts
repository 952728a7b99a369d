/** Shown is a frame: its time, and how long the one before it was shown, s. */
export type Shown = { at: number; frame: number }

/** Player is what of a video element is needed. */
export type Player = Pick<HTMLVideoElement, 'currentTime' | 'duration'> & {
  requestVideoFrameCallback?: (done: (now: number, meta: { mediaTime: number }) => void) => number
  addEventListener: (type: 'seeked', done: () => void, options: { once: true }) => void
}

/** How long a frame that is to be shown is waited for, ms. */
const patience = 400

/** Steps that are tried to get past a frame, s: a frame that is shown for longer than the last of them is the end. */
const tries = [1 / 60, 1 / 30, 1 / 15, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4]

/** fine is how near two times are that show two frames following each other, s. */
const fine = 1e-3

/**
 * Which frame a browser shows for a time is not always the one whose time has come: where a clip does not say how long its frames
 * last, browsers go by their average. Only two things are relied on: a later time never shows an earlier frame, and the time
 * that the browser gives for what it shows is that frame's own.
 */
export class Frames {
  private readonly video: Player
  /** at is the time of the frame that is shown, s; undefined before the first. */
  at: number | undefined
  private asked = 0 // the time that was asked for to have it shown

  constructor(video: Player) {
    this.video = video
  }

  private get end() {
    return Number.isFinite(this.video.duration) ? this.video.duration : Infinity
  }

  /** seek shows what the browser has for a time and returns the frame's own time. */
  async seek(t: number): Promise<number> {
    const to = Math.max(0, Math.min(t, this.end))
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
    this.asked = to
    return this.at
  }

  /** neighbour shows the frame that follows in a direction, 1 or −1; at either end it stays. */
  private async neighbour(direction: 1 | -1): Promise<number> {
    const from = this.at ?? (await this.seek(this.video.currentTime))
    let near = this.asked // shows the frame that is left
    for (const step of tries) {
      const to = Math.max(0, Math.min(near + direction * step, this.end))
      let there = await this.seek(to)
      let far = to
      if (there !== from) {
        // Close in on the border between the frame that is left and the one next to it.
        while (Math.abs(far - near) > fine) {
          const middle = (near + far) / 2
          const seen = await this.seek(middle)
          if (seen === from) near = middle
          else [far, there] = [middle, seen]
        }
        return this.at === there && this.asked === far ? there : this.seek(far)
      }
      near = to
      if (to === 0 || to === this.end) break
    }
    return from
  }

  /** next shows the next frame; at the end it stays. */
  next = () => this.neighbour(1)

  /** previous shows the frame before; at the beginning it stays. */
  previous = () => this.neighbour(-1)

  /** show shows the frame of a time that is known, such as that of a mark. */
  async show(at: number): Promise<number> {
    let seen = await this.seek(at)
    while (seen < at - fine) {
      const next = await this.next()
      if (next === seen) break
      seen = next
    }
    return seen
  }

  /** lookAt is the frame that is shown, with how long the one before it was: something became visible within that. */
  async lookAt(): Promise<Shown> {
    const at = this.at ?? (await this.seek(this.video.currentTime))
    const asked = this.asked
    const before = await this.previous()
    await this.seek(asked)
    return { at, frame: before < at ? at - before : 1 / 30 }
  }
}
