import { useEffect, useRef, type ReactNode } from 'react'
import { typing } from './shortcuts'

/** moved reports whether the reader has gone from one page to another: then the new page's heading is read out. */
let moved = false
export const hasMoved = () => {
  moved = true
}

/** Heading is a page's own: it names the page in the window's title and takes the focus when the page is come to. */
export function Heading({ title, className = 'text-3xl font-bold tracking-tight', children }: { title: string; className?: string; children: ReactNode }) {
  const at = useRef<HTMLHeadingElement>(null)
  useEffect(() => {
    document.title = `${title} · Now Then`
  }, [title])
  useEffect(() => {
    if (moved && !typing(document.activeElement)) at.current?.focus({ preventScroll: true })
  }, [])
  return (
    <h1 ref={at} tabIndex={-1} className={`${className} outline-none`}>
      {children}
    </h1>
  )
}
