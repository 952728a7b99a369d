import { useEffect, useLayoutEffect, useRef } from 'react'
import { useBlocker } from 'react-router'

/** Unsaved asks before a page is left on which something was typed and not saved. */
export function Unsaved({ when }: { when: boolean }) {
  const blocker = useBlocker(({ currentLocation, nextLocation }) => when && currentLocation.pathname !== nextLocation.pathname)
  const dialog = useRef<HTMLDialogElement>(null)
  const asks = blocker.state === 'blocked'
  useEffect(() => {
    if (asks) dialog.current?.showModal()
  }, [asks])
  // With what the page says, not after it: once it says that all is saved, nothing asks.
  useLayoutEffect(() => {
    if (!when) return
    const ask = (e: BeforeUnloadEvent) => e.preventDefault()
    window.addEventListener('beforeunload', ask)
    return () => window.removeEventListener('beforeunload', ask)
  }, [when])
  if (!asks) return null
  return (
    <dialog ref={dialog} className="modal" aria-labelledby="unsaved" onCancel={() => blocker.reset()}>
      <div className="modal-box">
        <h2 id="unsaved" className="text-xl font-bold">
          Leave without saving?
        </h2>
        <p className="mt-2">What you typed on this page is not saved yet.</p>
        <div className="mt-5 flex gap-2">
          <button type="button" className="btn btn-primary" autoFocus onClick={() => blocker.reset()}>
            Stay
          </button>
          <button type="button" className="btn" onClick={() => blocker.proceed()}>
            Leave
          </button>
        </div>
      </div>
    </dialog>
  )
}
