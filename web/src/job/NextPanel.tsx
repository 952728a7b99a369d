import { ArrowRight, Hand, Hourglass } from 'lucide-react'
import { Link } from 'react-router'
import type { View } from '../api/client'
import { useMeasuring } from '../api/queries'
import { OpenTimer } from '../timer/OpenTimer'
import { minutes } from '../ui/format'
import { measurePath, nextPath } from './paths'

const verbs: Record<string, string> = { measure: 'Measure', report: 'Open the ledger' }
const anchors: Record<string, [string, string]> = { 'take-out': ['#gate', 'Go to the gate'], type: ['#plan', 'Go to the plan'], 'hand-back': ['#gate', 'Go to the last gate'], fit: ['#drives', 'Enter the drive'] }

/** NextPanel is the one most useful thing to do in this job now, with the button that does it. */
export function NextPanel({ view }: { view: View }) {
  const measuring = useMeasuring(view.id).data
  const { next } = view
  if (measuring?.state === 'running') {
    return (
      <Panel icon={<Hourglass size={26} aria-hidden />} words={`Measuring: ${measuring.kept} of ${measuring.of} runs are done.`}>
        <Link className="btn btn-primary btn-lg" to={measurePath(view.id, measuring.setup)}>
          Watch
        </Link>
      </Panel>
    )
  }
  if (next.do === 'nothing') return null
  const to = nextPath(view)
  const anchor = anchors[next.do]
  return (
    <Panel
      icon={next.hands ? <Hand size={26} aria-label="Needs you" /> : <Hourglass size={26} aria-label="Runs unattended" />}
      words={next.words}
      more={next.minutes > 0 ? `about ${minutes(next.minutes)}, ${next.hands ? 'needs you' : 'runs unattended'}` : ''}
    >
      {next.do === 'time' && (
        <OpenTimer view={view} setup={next.setup} test={next.test} tone="primary" size="lg">
          Open the timer <ArrowRight size={20} aria-hidden />
        </OpenTimer>
      )}
      {to && next.do !== 'time' && (
        <Link className="btn btn-primary btn-lg" to={to}>
          {verbs[next.do]} <ArrowRight size={20} aria-hidden />
        </Link>
      )}
      {anchor && (
        <Link className="btn btn-primary btn-lg" to={anchor[0]} onClick={() => document.querySelector(anchor[0])?.scrollIntoView()}>
          {anchor[1]} <ArrowRight size={20} aria-hidden />
        </Link>
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
