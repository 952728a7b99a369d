import { Flag } from 'lucide-react'
import { useState } from 'react'
import type { Timer } from '../api/client'
import { useReach } from '../access/queries'

/** FinishLine says by which address the customer's browser stops this timer. */
export function FinishLine({ timer }: { timer: Timer }) {
  const [open, setOpen] = useState(false)
  const reach = useReach()
  const addresses = reach.data?.addresses ?? []
  const outside = addresses.filter((a) => !a.loopback)
  const shown = outside.length > 0 ? outside : addresses
  return (
    <div className="text-center">
      <button type="button" className="btn btn-ghost btn-sm" aria-expanded={open} onClick={() => setOpen(!open)}>
        <Flag size={16} aria-hidden /> Finish line{timer.pages > 1 && timer.opened > 0 ? `: ${timer.opened} of ${timer.pages} pages are open` : ''}
      </button>
      {open && (
        <div className="mx-auto mt-2 max-w-2xl text-base">
          <p>When the customer’s browser opens this page, the timer stops. Make it the browser’s start page, or put it into the start folder:</p>
          {shown.map((a) => (
            <p key={a.url} className="text-2xl font-bold tracking-wide break-all">
              {a.url}
              {timer.finish}
              {timer.pages > 1 && <span className="text-lg font-semibold text-secondary"> and …/2 to …/{timer.pages}</span>}
            </p>
          ))}
          {reach.data && !reach.data.open && (
            <p className="text-secondary">The bench can only be reached from this computer. To reach it from another one, set a shop password and start it with --listen.</p>
          )}
        </div>
      )}
    </div>
  )
}
