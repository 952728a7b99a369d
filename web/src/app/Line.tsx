import { useEffect, useState } from 'react'
import { useLine } from '../api/live'
import { waitingPresses } from '../timer/waiting'

/** patience is how long the connection may be lost before the page says so, ms: a page that becomes visible again takes a moment. */
const patience = 1500

/** presses is how many presses of timers wait on this device to be sent. */
function presses(): number {
  let n = 0
  for (let i = 0; i < localStorage.length; i++) {
    const key = localStorage.key(i)
    if (key?.startsWith('presses ')) n += waitingPresses(key.slice('presses '.length)).length
  }
  return n
}

/** Line says that the bench isn't connected and the page may be out of date. */
export function Line() {
  const down = useLine() === false
  const [long, setLong] = useState(false)
  useEffect(() => {
    if (!down) return
    const t = setTimeout(() => setLong(true), patience)
    return () => {
      clearTimeout(t)
      setLong(false)
    }
  }, [down])
  if (!down || !long) return null
  const waiting = presses()
  return (
    <p role="alert" className="no-print sticky top-0 z-20 bg-error px-4 py-2 text-center font-semibold text-error-content">
      Can’t reach the bench. What is shown may be out of date; this page reconnects automatically.
      {waiting > 0 && ` ${waiting === 1 ? 'One press of the timer waits' : `${waiting} presses of the timer wait`} here to be sent.`}
    </p>
  )
}
