import type { ReactNode } from 'react'
import { useNavigate } from 'react-router'
import type { Setup, Test, View } from '../api/client'
import { useArmTimer } from './queries'
import { timerPath } from '../job/paths'
import { lastSitting } from '../job/view'
import { CommandButton } from '../ui/CommandButton'
import { useGoOn } from '../ui/goOn'
import { technician } from '../ui/technician'

/** useOpenTimer opens the timer of a test, armed. Where no conditions are noted yet the page asks for them first. */
export function useOpenTimer(view: View) {
  const arm = useArmTimer(view.id)
  const go = useNavigate()
  const goOn = useGoOn()
  const open = (setup: Setup['id'], test: Test['id']) => {
    const to = timerPath(view.id, setup, test)
    const sitting = lastSitting(view, setup)
    if (!sitting) void go(to)
    // Where the timer holds another time it is not armed, and its page says so.
    else void arm.runAsync({ test, sitting: sitting.id, by: technician.get() }).then(goOn(() => to), goOn(() => to))
  }
  return { open, of: arm }
}

/** OpenTimer is the button that opens the timer of a test. */
export function OpenTimer({ view, setup, test, className, size, tone, children, ...rest }: { view: View; setup: Setup['id']; test: Test['id']; className?: string; size?: 'sm' | 'lg'; tone?: 'primary' | 'plain' | 'ghost'; children: ReactNode; 'aria-label'?: string }) {
  const { open, of } = useOpenTimer(view)
  return (
    <CommandButton of={of} tone={tone} size={size} className={className} onClick={() => open(setup, test)} {...rest}>
      {children}
    </CommandButton>
  )
}
