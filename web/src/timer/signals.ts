import { useEffect, useState } from 'react'

/** Signals tell a press to ears and hands, where the technician wants that; it is a thing of the device. */
const place = 'signals'

const wanted = () => localStorage.getItem(place) === 'on'

export function useSignals() {
  const [on, setOn] = useState(wanted)
  return {
    on,
    toggle: () => {
      localStorage.setItem(place, on ? 'off' : 'on')
      setOn(!on)
      if (!on) signal('split')
    },
  }
}

const tones = { tick: 660, start: 880, split: 880, stop: 440 } as const
let audio: AudioContext | undefined

/** signal gives a short tone and a short vibration, if signals are wanted. */
export function signal(what: keyof typeof tones) {
  if (!wanted()) return
  navigator.vibrate?.(what === 'stop' ? [80, 40, 80] : 60)
  try {
    audio ??= new AudioContext()
    const tone = audio.createOscillator()
    const gain = audio.createGain()
    tone.frequency.value = tones[what]
    gain.gain.setValueAtTime(0.25, audio.currentTime)
    gain.gain.exponentialRampToValueAtTime(0.001, audio.currentTime + 0.18)
    tone.connect(gain).connect(audio.destination)
    tone.start()
    tone.stop(audio.currentTime + 0.2)
  } catch {
    // A device without sound times as well.
  }
}

/** useWakeLock keeps the screen on while something is timed, and takes it again when the page comes back into sight. */
export function useWakeLock(active: boolean) {
  useEffect(() => {
    if (!active || !('wakeLock' in navigator)) return
    let lock: WakeLockSentinel | undefined
    let gone = false
    const take = () => {
      if (document.visibilityState !== 'visible') return
      navigator.wakeLock.request('screen').then(
        (l) => {
          if (gone) void l.release()
          else lock = l
        },
        () => undefined, // an empty battery may forbid it
      )
    }
    take()
    document.addEventListener('visibilitychange', take)
    return () => {
      gone = true
      document.removeEventListener('visibilitychange', take)
      void lock?.release()
    }
  }, [active])
}
