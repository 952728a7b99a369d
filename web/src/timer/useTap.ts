import { useRef, type PointerEvent } from 'react'

/** slip is how far a finger may move and still have tapped, px. */
const slip = 12

/**
 * useTap takes presses on the glass: of the mouse's first button at once, of one finger when it lifts where it came down, with the time at
 * which it came down. A finger that scrolls, a second finger and other buttons are no presses.
 */
export function useTap(on: boolean, mark: (at: number) => void) {
  const down = useRef<{ id: number; x: number; y: number; at: number }>(undefined)
  return {
    onPointerDown: (e: PointerEvent) => {
      if (!e.isPrimary) return // a second finger neither presses nor takes the first one's press away
      down.current = undefined
      const held = (e.target as Element).closest('button, a, input, label, summary, select, textarea, dialog')
      if (!on || e.button !== 0 || (held && !held.hasAttribute('data-pad'))) return
      if (e.pointerType === 'mouse') mark(e.timeStamp)
      else down.current = { id: e.pointerId, x: e.clientX, y: e.clientY, at: e.timeStamp }
    },
    onPointerUp: (e: PointerEvent) => {
      const d = down.current
      down.current = undefined
      if (d && d.id === e.pointerId && Math.hypot(e.clientX - d.x, e.clientY - d.y) <= slip) mark(d.at)
    },
    onPointerCancel: () => (down.current = undefined), // the finger scrolls
  }
}
