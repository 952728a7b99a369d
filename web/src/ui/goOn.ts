import { useCallback } from 'react'
import { useLocation, useNavigate } from 'react-router'

/**
 * useGoOn leads on once an answer has come: goOn(to) is made for what is
 * called with the answer. A user who has left the page meanwhile stays where
 * he went, however late the answer is.
 */
export function useGoOn() {
  const go = useNavigate()
  const here = useLocation().pathname
  return useCallback(
    <Out = unknown>(to: (out: Out) => string) =>
      (out: Out) => {
        if (window.location.pathname === here) void go(to(out))
      },
    [go, here],
  )
}
