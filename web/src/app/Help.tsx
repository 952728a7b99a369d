import { HelpCircle } from 'lucide-react'
import { useMemo, useRef, type RefObject } from 'react'
import { useLocation } from 'react-router'
import { useOpenShortcuts, useShortcuts } from '../ui/shortcuts'
import { wordsOn } from './words'

const names: Record<string, string> = { ' ': 'Space', ArrowDown: '↓', ArrowUp: '↑', Escape: 'Esc' }

/** Help is a button and a key that explain the open page's words and list its keys. */
export function Help() {
  const overlay = useRef<HTMLDialogElement>(null)
  useShortcuts(useMemo(() => [{ key: '?', label: 'Help: words and keys of this page', run: () => overlay.current?.showModal() }], []))
  return (
    <>
      <button type="button" className="btn btn-ghost btn-sm btn-square" aria-label="Help" onClick={() => overlay.current?.showModal()}>
        <HelpCircle size={18} aria-hidden />
      </button>
      <HelpOverlay of={overlay} />
    </>
  )
}

function HelpOverlay({ of }: { of: RefObject<HTMLDialogElement | null> }) {
  const list = useOpenShortcuts().filter((s) => !s.quiet)
  const words = wordsOn(useLocation().pathname)
  return (
    <dialog ref={of} className="modal cursor-auto text-left text-base-content select-text" aria-label="Help for this page">
      <div className="modal-box max-w-4xl">
        <div className="grid gap-6 md:grid-cols-[3fr_2fr]">
          {words.length > 0 && (
            <div>
              <h2 className="mb-3 text-xl font-bold">Words on this page</h2>
              <dl className="grid gap-y-2">
                {words.map((w) => (
                  <div key={w.term}>
                    <dt className="inline font-semibold">{w.term}: </dt>
                    <dd className="inline">{w.means}</dd>
                  </div>
                ))}
              </dl>
            </div>
          )}
          <div>
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
          </div>
        </div>
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
