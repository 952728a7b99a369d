import { Moon, Plus, Settings, Smartphone, Sun } from 'lucide-react'
import { useMemo } from 'react'
import { Link, useNavigate } from 'react-router'
import { useShortcuts } from '../ui/shortcuts'
import { setTheme, useTheme } from '../ui/theme'
import { Help } from './Help'

/** TopBar is on every page but the timer: the way back to the bench, a new job, help and light. */
export function TopBar() {
  const theme = useTheme()
  const go = useNavigate()
  useShortcuts(
    useMemo(
      () => [
        { key: 'b', label: 'To the jobs', run: () => void go('/') },
        { key: 'n', label: 'New job', run: () => void go('/new') },
        { key: 'D', label: 'Day or dim light', run: () => setTheme(document.documentElement.dataset.theme === 'dim' ? 'day' : 'dim') },
      ],
      [go],
    ),
  )
  return (
    <header className="no-print border-b border-base-300">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:p-3">
        To the page
      </a>
      <div className="mx-auto flex max-w-6xl items-center gap-1 px-4 py-2 sm:gap-2 md:px-6">
        <Link to="/" className="mr-auto flex items-center gap-2.5 rounded-sm py-1 text-lg font-bold tracking-tight whitespace-nowrap">
          <svg viewBox="0 0 32 32" width="26" height="26" aria-hidden>
            <rect x="2" y="5" width="28" height="8" rx="1.5" className="fill-then" />
            <circle cx="8" cy="23" r="6" className="fill-now" />
          </svg>
          Now Then
        </Link>
        <Link to="/new" className="btn btn-ghost btn-sm">
          <Plus size={18} className="max-sm:hidden" aria-hidden /> New job
        </Link>
        <Link to="/settings" className="btn btn-ghost btn-sm btn-square" aria-label="Settings">
          <Settings size={18} aria-hidden />
        </Link>
        <Link to="/reach" className="btn btn-ghost btn-sm btn-square max-sm:hidden" aria-label="The bench on a phone">
          <Smartphone size={18} aria-hidden />
        </Link>
        <button
          type="button"
          className="btn btn-ghost btn-sm btn-square"
          aria-label={theme === 'dim' ? 'Day light' : 'Dim light'}
          onClick={() => setTheme(theme === 'dim' ? 'day' : 'dim')}
        >
          {theme === 'dim' ? <Sun size={18} aria-hidden /> : <Moon size={18} aria-hidden />}
        </button>
        <Help />
      </div>
    </header>
  )
}
