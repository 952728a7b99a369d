import { useSyncExternalStore } from 'react'

export type Theme = 'day' | 'dim'

const watchers = new Set<() => void>()
const dark = window.matchMedia?.('(prefers-color-scheme: dark)')

function current(): Theme {
  const kept = localStorage.getItem('theme')
  if (kept === 'day' || kept === 'dim') return kept
  return dark?.matches ? 'dim' : 'day'
}

/** setTheme keeps a theme on this device. */
export function setTheme(theme: Theme) {
  localStorage.setItem('theme', theme)
  showTheme()
}

/** showTheme puts the theme on the page. */
export function showTheme() {
  document.documentElement.dataset.theme = current()
  watchers.forEach((w) => w())
}

export const useTheme = () =>
  useSyncExternalStore(
    (w) => {
      watchers.add(w)
      return () => watchers.delete(w)
    },
    current,
  )
