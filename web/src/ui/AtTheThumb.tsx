import type { ReactNode } from 'react'

/** AtTheThumb holds the next act of a page: in its place on a wide screen, and on a phone in a bar at the lower edge, where the thumb is. */
export function AtTheThumb({ children }: { children: ReactNode }) {
  return (
    <div
      data-thumb
      className="max-sm:fixed max-sm:inset-x-0 max-sm:bottom-0 max-sm:z-20 max-sm:border-t-2 max-sm:border-base-content max-sm:bg-base-100 max-sm:p-2 max-sm:[&_.btn]:h-12 max-sm:[&_.btn]:w-full"
    >
      {children}
    </div>
  )
}
