import type { ReactNode } from 'react'

/** More folds away the fields that can wait. */
export function More({ what, open, children }: { what: string; open?: boolean; children: ReactNode }) {
  return (
    <details open={open}>
      <summary className="cursor-pointer text-sm font-semibold text-secondary">More: {what}</summary>
      <div className="grid gap-3 pt-3 sm:grid-cols-2">{children}</div>
    </details>
  )
}
