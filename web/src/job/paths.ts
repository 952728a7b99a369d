import type { View } from '../api/client'

/** Where on the page a thing is done. */

export const measurePath = (job: string, setup: string) => `/jobs/${job}/measure/${setup}`
export const timerPath = (job: string, setup: string, test: string) => `/jobs/${job}/timer/${setup}/${test}`
export const videoPath = (job: string, setup: string, test: string) => `/jobs/${job}/video/${setup}/${test}`
export const racePath = (job: string, test: string) => `/jobs/${job}/race/${test}`
export const closerPath = (job: string, test: string) => `/jobs/${job}/tests/${test}`

/** nextPath is the page on which the next step is done, or null where it is done on the job's own page. */
export function nextPath(v: View): string | null {
  const { next } = v
  switch (next.do) {
    case 'measure':
      return measurePath(v.id, next.setup)
    case 'time':
      return timerPath(v.id, next.setup, next.test)
    case 'report':
      return `/jobs/${v.id}/ledger`
    default:
      return null
  }
}
