/** Shown is a frame: its time, and how long the one before it was shown, s. */
export type Shown = { at: number; frame: number }

/** Player is the part of a video element that is used. */
export type Player = Pick<HTMLVideoElement, 'currentTime' | 'duration'> & {
  requestVideoFrameCallback?: (done: (now: number, meta: { mediaTime: number }) => void) => number
  addEventListener: (type: 'seeked', done: () => void, options: { once: true }) => void
}

/** How long a video may look for a place, ms; a clip with few whole frames takes long on an old computer. */
const seeking = 15_000

/**
 * How long after that the picture may take to be shown, ms: at first; and once none came, with a browser that perhaps does not show
 * the same frame again.
 */
const patience = 3000
const impatience = 400

/** How long after it stopped playing a frame may still come, ms. */
const settling = 100

/** Steps that are tried to get past a frame, s: a frame that is shown for longer than the last of them is the end. */
const tries = [1 / 60, 1 / 30, 1 / 15, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4]

/** fine is how near two times are that show two frames following each other, s. */
const fine = 1e-3

const sleep = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))

/**
 * Which frame a browser shows for a time is not always the one whose time has come: where a clip does not say how long its frames
 * last, browsers go by their average. Only three things are relied on: a later time never shows an earlier frame, the time that the
 * browser gives for what it shows is that frame's own, and going to another time shows a frame, be it the same one.
 */
export class Frames {
  private readonly video: Player
  /** at is the time of the frame that is shown, s; undefined before the first. */
  at: number | undefined
  private asked = 0 // the time that was asked for to have it shown
  private fresh: (() => void) | undefined // called when a frame is shown
  private patience = patience
  private readonly tell: ((at: number) => void) | undefined

  /** tell hears of every frame that is shown, also while the video plays. */
  constructor(video: Player, tell?: (at: number) => void) {
    this.video = video
    this.tell = tell
    this.watch()
  }

  private watch() {
    this.video.requestVideoFrameCallback?.((_, meta) => {
      this.at = meta.mediaTime
      this.fresh?.()
      this.tell?.(meta.mediaTime)
      this.watch()
    })
  }

  private get end() {
    return Number.isFinite(this.video.duration) ? this.video.duration : Infinity
  }

  /** seek shows what the browser has for a time and returns the frame's own time. */
  async seek(t: number): Promise<number> {
    let to = Math.max(0, Math.min(t, this.end))
    if (to === this.video.currentTime) {
      // Nothing would move, and no frame be shown again.
      if (this.at !== undefined) return this.at
      to += fine / 2
    }
    this.asked = to
    const shown = new Promise<boolean>((done) => (this.fresh = () => done(true)))
    const sought = new Promise<void>((done) => this.video.addEventListener('seeked', done, { once: true }))
    this.video.currentTime = to
    await Promise.race([sought, sleep(seeking)])
    // A browser that does not tell its frames is believed to show what was asked for.
    if (!this.video.requestVideoFrameCallback) this.at = to
    else if (!(await Promise.race([shown, sleep(this.patience)]))) this.patience = impatience
    return (this.at ??= to)
  }

  /** rest is the frame on which a playing video stopped. */
  async rest(): Promise<number> {
    await sleep(settling)
    return this.at === undefined || !this.video.requestVideoFrameCallback ? this.seek(this.video.currentTime) : this.show(this.at)
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
