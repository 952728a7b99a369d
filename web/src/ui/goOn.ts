import { useCallback, useEffect } from 'react'
import { useLocation, useNavigate, type To } from 'react-router'

/** Moving is what is known of a router: where it is, and whether it is on its way elsewhere. */
type Moving = { state: { navigation: { state: string } } }

let router: Moving | undefined

/** watchRouter names the router of the pages. A page that is still being fetched is on its way, though the address is the old one. */
export const watchRouter = (of: Moving) => {
  router = of
}

/** leaving reports whether the user is on the way to another page. */
const leaving = () => router !== undefined && router.state.navigation.state !== 'idle'

/**
 * useGoOn leads on once an answer has come: goOn(to) is made for what is
 * called with the answer. A user who has left the page in the meantime, or is about
 * to, goes where he wanted, however late the answer is.
 */
export function useGoOn() {
  const go = useNavigate()
  const here = useLocation().pathname
  return useCallback(
    <Out = unknown>(to: (out: Out) => string) =>
      (out: Out) => {
        if (window.location.pathname === here && !leaving()) void go(to(out))
      },
    [go, here],
  )
}

/** Onward goes to another page in the place of this one, unless the user is on the way elsewhere or has gone there before this one was shown. */
export function Onward({ to }: { to: To }) {
  const go = useNavigate()
  const here = useLocation().pathname
  useEffect(() => {
    if (window.location.pathname === here && !leaving()) void go(to, { replace: true })
    // once, where it is shown
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])
  return null
}
