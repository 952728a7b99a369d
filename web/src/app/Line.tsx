import { useEffect, useState } from 'react'
import { useLine } from '../api/live'

/** patience is how long the line may be down before it is said, ms: a page that comes back into sight takes a moment. */
const patience = 1500

/** Line says while the bench cannot be heard, so that nobody takes what is shown for how things are now. */
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
  return (
    <p role="alert" className="no-print sticky top-0 z-20 bg-error px-4 py-2 text-center font-semibold text-error-content">
      Can’t reach the bench. What is shown may be out of date; this page reconnects automatically.
    </p>
  )
}
