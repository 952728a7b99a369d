import { ChevronRight } from 'lucide-react'
import { useState, type ReactNode } from 'react'

/** Fold is a part of a page that is folded away behind its heading, with how it is beside it. opened opens it by itself, once that has become so. */
export function Fold({
  title,
  status,
  tone = 'text-secondary',
  aside,
  opened = false,
  small,
  live,
  onOpen,
  children,
}: {
  title: string
  status?: ReactNode
  tone?: string
  /** aside comes after the status, quieter. */
  aside?: ReactNode
  opened?: boolean
  small?: boolean
  /** live: a change of the status is told to those who do not see it. */
  live?: boolean
  onOpen?: () => void
  children: ReactNode
}) {
  const [open, setOpen] = useState(opened)
  const [was, setWas] = useState(opened)
  if (was !== opened) {
    setWas(opened)
    if (opened) setOpen(true)
  }
  return (
    <details
      className={`group border-t border-base-300 ${small ? 'py-1' : 'pt-2'}`}
      open={open}
      onToggle={(e) => {
        setOpen(e.currentTarget.open)
        if (e.currentTarget.open) onOpen?.()
      }}
    >
      <summary className="flex min-h-8 cursor-pointer list-none flex-wrap items-center gap-x-3">
        <ChevronRight size={18} aria-hidden className="-mr-1 shrink-0 group-open:rotate-90" />
        <h2 className={small ? 'font-bold' : 'text-xl font-bold'}>{title}</h2>
        {status !== undefined && (
          <span role={live ? 'status' : undefined} className={tone}>
            {status}
          </span>
        )}
        {aside && <span className="text-sm text-secondary">{aside}</span>}
      </summary>
      {children}
    </details>
  )
}
