import { useEffect } from 'react'

/** undoFor is how long what was done can be undone with one press, ms. */
const undoFor = 10_000

/** Undo says what was just done and takes it back while it is offered. */
export function Undo({ what, onUndo, onGone }: { what: string; onUndo: () => void; onGone: () => void }) {
  useEffect(() => {
    const t = setTimeout(onGone, undoFor)
    return () => clearTimeout(t)
  }, [onGone])
  return (
    <p role="status" className="flex flex-wrap items-center gap-3 border-l-4 border-info pl-3">
      {what}
      <button type="button" className="btn btn-sm" onClick={onUndo}>
        Undo
      </button>
    </p>
  )
}
