import { ArrowRight, Hand, Hourglass } from 'lucide-react'
import { Link } from 'react-router'
import type { View } from '../api/client'
import { useMeasuring } from '../api/queries'
import { minutes } from '../ui/format'
import { measurePath, nextPath } from './paths'

const verbs: Record<string, string> = { measure: 'Measure', time: 'Open the timer', report: 'Open the ledger' }
const anchors: Record<string, [string, string]> = { 'take-out': ['#gate', 'To the gate'], type: ['#plan', 'To the plan'], 'hand-back': ['#gate', 'To the last gate'] }

/** NextPanel is the one most useful thing to do in this job now, with the button that does it. */
export function NextPanel({ view }: { view: View }) {
  const measuring = useMeasuring(view.id).data
  const { next } = view
  if (measuring?.state === 'running') {
    return (
      <Panel icon={<Hourglass size={26} aria-hidden />} words={`Measuring: ${measuring.kept} of ${measuring.of} runs are done.`}>
        <Link className="btn btn-primary btn-lg" to={measurePath(view.id, measuring.setup)}>
          Watch it
        </Link>
      </Panel>
    )
  }
  if (next.do === 'nothing') return null
  const to = nextPath(view)
  const anchor = anchors[next.do]
  return (
    <Panel
      icon={next.hands ? <Hand size={26} aria-label="needs hands" /> : <Hourglass size={26} aria-label="runs by itself" />}
      words={next.words}
      more={next.minutes > 0 ? `about ${minutes(next.minutes)}, ${next.hands ? 'hands on' : 'by itself'}` : ''}
    >
      {to && (
        <Link className="btn btn-primary btn-lg" to={to}>
          {verbs[next.do]} <ArrowRight size={20} aria-hidden />
        </Link>
      )}
      {anchor && (
        <a className="btn btn-primary btn-lg" href={anchor[0]}>
          {anchor[1]} <ArrowRight size={20} aria-hidden />
        </a>
      )}
    </Panel>
  )
}

function Panel({ icon, words, more, children }: { icon: React.ReactNode; words: string; more?: string; children: React.ReactNode }) {
  return (
    <section aria-label="Next" className="flex flex-wrap items-center gap-4 rounded-box border-2 border-base-content p-4 md:p-5">
      <span className="shrink-0">{icon}</span>
      <p className="flex-1 basis-64 text-2xl leading-snug font-bold">
        {words} {more && <span className="block text-base font-normal text-secondary">{more}</span>}
      </p>
      {children}
    </section>
  )
}
