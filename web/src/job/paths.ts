import type { Card, Schemas, Setup, View } from '../api/client'

/** Where a thing is done. */

export type Page = Schemas['Page']

const pages = ['intake', 'then', 'prepare', 'swap', 'now', 'compare', 'report']

/** pagePath is a page of a job by its name; another name is that of a setup. */
export const pagePath = (job: string, page: Page) => (pages.includes(page) ? `/jobs/${job}/${page}` : trialPath(job, page))
const trialPath = (job: string, setup: string) => `/jobs/${job}/trials/${setup}`
export const measurePath = (job: string, setup: string) => `/jobs/${job}/measure/${setup}`
export const timerPath = (job: string, setup: string, test: string) => `/jobs/${job}/timer/${setup}/${test}`
export const videoPath = (job: string, setup: string, test: string) => `/jobs/${job}/video/${setup}/${test}`
export const racePath = (job: string, test: string) => `/jobs/${job}/race/${test}`
export const closerPath = (job: string, test: string) => `/jobs/${job}/tests/${test}`

/** sidePath is the page of a setup. */
export const sidePath = (job: string, s: Pick<Setup, 'id' | 'role'>) => (s.role === 'trial' ? trialPath(job, s.id) : pagePath(job, s.role))

/** backPath is the page from which a full-screen tool on a setup was opened. */
export const backPath = (v: View, setup: string | undefined) => {
  const s = v.job.setups.find((x) => x.id === setup)
  return s ? sidePath(v.id, s) : `/jobs/${v.id}`
}

/** onward is where the job continues once a setup was measured: at the page that it has reached; from a trial of an upgrade at the trial's own. */
export const onward = (v: View, setup: string) => (v.job.setups.find((s) => s.id === setup)?.role === 'trial' && v.page !== setup && !v.job.setups.some((s) => s.id === v.page) ? backPath(v, setup) : `/jobs/${v.id}`)

/** beginPath is where the next step of a job is begun, from anywhere on the bench. */
export function beginPath(c: Pick<Card, 'id' | 'page' | 'next'>): string {
  switch (c.next.do) {
    case 'time':
      return timerPath(c.id, c.next.setup, c.next.test)
    case 'measure':
      return measurePath(c.id, c.next.setup)
    case 'type':
      return `${pagePath(c.id, c.page)}?test=${c.next.test}`
    case 'take-out':
    case 'close':
    case 'hand-back':
      return `${pagePath(c.id, c.page)}#gate`
    case 'fit':
      return `${pagePath(c.id, 'intake')}#drives`
  }
  return pagePath(c.id, c.page)
}

/** beginWords is what the button says that begins the next step. */
export const beginWords: Record<View['next']['do'], string> = {
  time: 'Open the timer',
  measure: 'Measure',
  type: 'Enter value',
  'take-out': 'Go to the checkpoint',
  step: 'Go to the step',
  close: 'Go to the checkpoint',
  fit: 'Enter the drive',
  report: 'Open the result',
  'hand-back': 'Go to the last checkpoint',
  nothing: '',
}
