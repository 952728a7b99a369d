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

const watch = (w: () => void) => {
  watchers.add(w)
  return () => watchers.delete(w)
}

function changed() {
  snapshot = [...open].flat()
  watchers.forEach((w) => w())
}

/** textless inputs are pressed or moved, not typed into. */
const textless = /^(button|checkbox|color|file|image|radio|range|reset|submit)$/

/** typing reports whether what has the focus takes text. */
export function typing(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false
  if (target instanceof HTMLInputElement) return !textless.test(target.type)
  return target.isContentEditable || /^(TEXTAREA|SELECT)$/.test(target.tagName)
}

/** keysOf are the keys that mean something where the focus is. */
function keysOf(target: EventTarget | null): string[] {
  if (!(target instanceof HTMLElement)) return []
  if (target instanceof HTMLInputElement) {
    if (target.type === 'range') return ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Home', 'End', 'PageUp', 'PageDown']
    if (target.type === 'radio') return [' ', 'ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown']
    if (target.type === 'checkbox') return [' ']
  }
  return target.closest('button, a, summary, input') ? [' ', 'Enter'] : []
}

/** single reports whether a key is one that is typed: those can be turned off. Space, Enter, Escape and the arrows stay. */
const single = (key: string) => key.length === 1 && key !== ' '

const place = 'keys-off'
let keysOn = localStorage.getItem(place) === null

/** setKeysOn turns the single-letter keys on or off on this device. */
export function setKeysOn(on: boolean) {
  if (on) localStorage.removeItem(place)
  else localStorage.setItem(place, 'off')
  keysOn = on
  watchers.forEach((w) => w())
}

/** useKeysOn reports whether the single-letter keys work. */
export const useKeysOn = () => useSyncExternalStore(watch, () => keysOn)

function onKey(e: KeyboardEvent) {
  if (!keysOn && single(e.key)) return
  if (e.defaultPrevented || e.ctrlKey || e.metaKey || e.altKey || typing(e.target)) return
  if (document.querySelector('dialog[open]') && e.key !== 'Escape') return
  for (const s of [...snapshot].reverse()) {
    if (s.key === e.key && (s.always || !keysOf(e.target).includes(e.key))) {
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
  useSyncExternalStore(watch, () => snapshot)
