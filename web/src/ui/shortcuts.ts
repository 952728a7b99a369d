import { useLayoutEffect, useSyncExternalStore } from 'react'

/** Shortcut is a key and what it does on the page that is open. */
export type Shortcut = {
  key: string
  label: string
  run: (e: KeyboardEvent) => void
  /** quiet ones are not listed in the help. */
  quiet?: boolean
  /** always: the key means this even where it would press what has the focus. */
  always?: boolean
}

const open = new Set<Shortcut[]>()
let snapshot: Shortcut[] = []
const watchers = new Set<() => void>()

function changed() {
  snapshot = [...open].flat()
  watchers.forEach((w) => w())
}

/** typing tells whether a key belongs to what has the focus. */
export function typing(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
}

/** pressesItself tells whether space or enter already means something where the focus is. */
function pressesItself(target: EventTarget | null, key: string): boolean {
  return (key === ' ' || key === 'Enter') && target instanceof HTMLElement && target.closest('button, a, summary') !== null
}

function onKey(e: KeyboardEvent) {
  if (e.defaultPrevented || e.ctrlKey || e.metaKey || e.altKey || typing(e.target)) return
  if (document.querySelector('dialog[open]') && e.key !== 'Escape') return
  for (const s of [...snapshot].reverse()) {
    if (s.key === e.key && (s.always || !pressesItself(e.target, e.key))) {
      e.preventDefault()
      if (!e.repeat) s.run(e)
      return
    }
  }
}

/** useShortcuts puts keys to work while a component is shown, from its first sight on; later ones go before earlier ones. */
export function useShortcuts(list: Shortcut[]) {
  useLayoutEffect(() => {
    open.add(list)
    if (open.size === 1) window.addEventListener('keydown', onKey)
    changed()
    return () => {
      open.delete(list)
      if (open.size === 0) window.removeEventListener('keydown', onKey)
      changed()
    }
  }, [list])
}

/** useOpenShortcuts returns the keys that work now. */
export const useOpenShortcuts = () =>
  useSyncExternalStore(
    (w) => {
      watchers.add(w)
      return () => watchers.delete(w)
    },
    () => snapshot,
  )
