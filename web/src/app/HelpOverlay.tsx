import type { RefObject } from 'react'
import { useOpenShortcuts } from '../ui/shortcuts'

const names: Record<string, string> = { ' ': 'Space', ArrowDown: '↓', ArrowUp: '↑', Escape: 'Esc' }

/** HelpOverlay lists the keys that work on the page that is open. */
export function HelpOverlay({ of }: { of: RefObject<HTMLDialogElement | null> }) {
  const list = useOpenShortcuts().filter((s) => !s.quiet)
  return (
    <dialog ref={of} className="modal" aria-label="Keys on this page">
      <div className="modal-box">
        <h2 className="mb-3 text-xl font-bold">Keys on this page</h2>
        <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-2">
          {list.map((s) => (
            <div key={s.key + s.label} className="contents">
              <dt>
                <kbd className="key">{names[s.key] ?? s.key}</kbd>
              </dt>
              <dd>{s.label}</dd>
            </div>
          ))}
        </dl>
        <form method="dialog" className="mt-5">
          <button className="btn btn-primary btn-sm">Close</button>
        </form>
      </div>
      <form method="dialog" className="modal-backdrop">
        <button tabIndex={-1}>Close</button>
      </form>
    </dialog>
  )
}
