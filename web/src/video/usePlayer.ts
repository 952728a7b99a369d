import { useCallback, useEffect, useRef, useState } from 'react'
import { Frames } from './frames'

/** ready is the readyState from which on a video has a frame to show. */
const ready = 2

/** usePlayer moves a video, to which its ref is given, from frame to frame, and lets it play between. */
export function usePlayer() {
  const video = useRef<HTMLVideoElement>(null)
  const frames = useRef<Frames>(undefined)
  const busy = useRef(false)
  const [at, setAt] = useState<number>() // undefined until the clip is there
  const [length, setLength] = useState(0)
  const [playing, setPlaying] = useState(false)
  const [unplayable, setUnplayable] = useState(false)

  // One move at a time. A key that is held down does not run ahead of the picture, and a single press is not lost: of those that
  // come in the meantime, the last is done next.
  const waiting = useRef<() => void>(undefined)
  const alone = useCallback((work: (v: HTMLVideoElement, f: Frames) => Promise<void>) => {
    const begin = () => {
      const [v, f] = [video.current, frames.current]
      if (!v || !f) return
      const played = !v.paused
      busy.current = true
      v.pause()
      void (played ? f.rest() : Promise.resolve())
        .then(() => work(v, f))
        .catch(() => undefined) // what was sent to the bench tells its own error
        .finally(() => {
          busy.current = false
          const next = waiting.current
          waiting.current = undefined
          next?.()
        })
    }
    if (busy.current || (video.current?.readyState ?? 0) < ready) waiting.current = begin
    else begin()
  }, [])
  const move = useCallback((how: (f: Frames) => Promise<number>) => alone(async (_, f) => setAt(await how(f))), [alone])
  const by = useCallback((s: number) => move((f) => f.seek((f.at ?? 0) + s)), [move])
  const to = useCallback((s: number) => move((f) => f.seek(s)), [move])
  const play = useCallback(() => {
    const v = video.current
    if (!v || busy.current) return
    if (!v.paused) v.pause()
    // Some phones load nothing before; a play that something interrupts is no fault.
    else v.play().catch(() => undefined)
  }, [])

  useEffect(() => {
    const v = video.current
    if (!v) return
    // While seeking, a video shows other frames; only where it stops, or plays, is reported.
    frames.current ??= new Frames(v, (shown) => !busy.current && setAt(shown))
    const away = new AbortController()
    const on = (type: keyof HTMLMediaElementEventMap, hear: () => void) => v.addEventListener(type, hear, { signal: away.signal })
    const first = () => {
      setLength(v.duration)
      to(0)
    }
    const failed = () => setUnplayable(true)
    on('durationchange', () => setLength(v.duration))
    on('loadeddata', first)
    on('error', failed)
    on('play', () => setPlaying(true))
    on('pause', () => {
      setPlaying(false)
      if (!busy.current) move((f) => f.rest())
    })
    if (v.error) failed()
    else if (v.readyState >= ready) first()
    return () => away.abort()
  }, [to, move])

  return { video, at, setAt, length, playing, unplayable, alone, move, by, to, play }
}
