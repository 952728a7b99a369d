import { ArrowRight, Hand, Hourglass } from 'lucide-react'
import { useMemo, useRef, type ReactNode } from 'react'
import { Link, useNavigate } from 'react-router'
import type { Schemas, View } from '../api/client'
import { useMeasuring } from '../measure/queries'
import { useTick } from '../swap/queries'
import { BeginRound } from '../measure/BeginRound'
import { useOpenTimer } from '../timer/OpenTimer'
import { AtTheThumb } from '../ui/AtTheThumb'
import { CommandButton } from '../ui/CommandButton'
import { minutes } from '../ui/format'
import { Refusal } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { technician } from '../ui/technician'
import { beginPath, beginWords, measurePath, pagePath, type Page } from './paths'
import { stationName } from './stations'

type Next = Schemas['Next']

/** lowerFirst lets a sentence continue within another. */
const lowerFirst = (s: string) => s.charAt(0).toLowerCase() + s.slice(1)

/** NextPanel is the one most useful thing to do in this job now, with the button that begins it; on another page it says where. */
export function NextPanel({ view, page }: { view: View; page: Page }) {
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
  if (view.page !== page) {
    return <Elsewhere view={view} next={next} />
  }
  return <Here view={view} next={next} />
}

/** NextBar is the next act on a phone alone, for pages that show it in their own place: the bar leads there. */
export const NextBar = ({ view }: { view: View }) => (
  <div className="sm:hidden">
    <AtTheThumb>
      <Begin view={view} next={view.next} />
    </AtTheThumb>
  </div>
)

/** Elsewhere says that the job continues at another station; Enter goes there. */
function Elsewhere({ view, next }: { view: View; next: Next }) {
  const go = useNavigate()
  const to = pagePath(view.id, view.page)
  const name = stationName(view, view.page)
  useShortcuts(useMemo(() => [{ key: 'Enter', label: `Go to ${name}`, run: () => void go(to) }], [go, to, name]))
  return (
    <p className="flex flex-wrap items-center gap-x-4 gap-y-1">
      Next: {lowerFirst(next.words)}
      <AtTheThumb>
        <Link className="btn btn-sm" to={to}>
          Go to {name} <ArrowRight size={16} aria-hidden />
        </Link>
      </AtTheThumb>
    </p>
  )
}

function Here({ view, next }: { view: View; next: Next }) {
  return (
    <Panel
      icon={next.hands ? <Hand size={26} aria-label="Needs you" /> : <Hourglass size={26} aria-label="Runs unattended" />}
      words={next.words}
      more={[next.minutes > 0 && `about ${minutes(next.minutes)}, ${next.hands ? 'needs you' : 'runs unattended'}`, next.needs.length > 0 && `you need: ${next.needs.join(', ')}`]
        .filter(Boolean)
        .join(' · ')}
      beside={next.unattended && <Unattended view={view} next={next.unattended} />}
    >
      <Begin view={view} next={next} />
    </Panel>
  )
}

/** Unattended is what could run by itself on the same computer instead, while nobody is there. */
function Unattended({ view, next }: { view: View; next: Next }) {
  return (
    <div className="mt-3 flex flex-wrap items-center gap-3 border-t border-base-300 pt-3">
      <Hourglass size={20} aria-hidden className="shrink-0" />
      <p className="flex-1 basis-64">
        Or unattended: {lowerFirst(next.words).replace(/ \((Then|Now)\)/, '')} <span className="text-secondary">about {minutes(next.minutes)}</span>
      </p>
      <BeginRound view={view} setup={next.setup}>
        Measure
      </BeginRound>
    </div>
  )
}

/** Begin is the button that begins the next step, and Enter presses it. */
function Begin({ view, next }: { view: View; next: Next }) {
  const button = useRef<HTMLElement>(null)
  const go = useNavigate()
  const timer = useOpenTimer(view)
  const tick = useTick(view.id)
  useShortcuts(useMemo(() => [{ key: 'Enter', label: 'Do what is next', run: () => button.current?.click() }], []))
  const words = beginWords[next.do]
  switch (next.do) {
    case 'time':
      return (
        <CommandButton ref={button} of={timer.of} tone="primary" size="lg" onClick={() => timer.open(next.setup, next.test)}>
          {words} <ArrowRight size={20} aria-hidden />
        </CommandButton>
      )
    case 'measure':
      return (
        <BeginRound ref={button} view={view} setup={next.setup} primary>
          {words} <ArrowRight size={20} aria-hidden />
        </BeginRound>
      )
    case 'step':
      return (
        <span>
          <CommandButton ref={button} of={tick} tone="primary" size="lg" onClick={() => tick.run({ step: next.step, done: true, by: technician.get() })}>
            Done
          </CommandButton>
          {tick.error && <Refusal error={tick.error} />}
        </span>
      )
  }
  const to = next.do === 'report' ? pagePath(view.id, 'compare') : beginPath({ id: view.id, page: view.page, next })
  return (
    <CommandButton
      ref={button}
      of={{ isPending: false }}
      tone="primary"
      size="lg"
      onClick={() => {
        void go(to)
        if (to.endsWith('#gate')) document.querySelector('#gate')?.scrollIntoView()
      }}
    >
      {words} <ArrowRight size={20} aria-hidden />
    </CommandButton>
  )
}

function Panel({ icon, words, more, beside, children }: { icon: ReactNode; words: string; more?: string; beside?: ReactNode; children: ReactNode }) {
  return (
    <section aria-label="Next" className="rounded-box border-2 border-base-content p-4">
      <div className="flex flex-wrap items-center gap-4">
        <span className="shrink-0">{icon}</span>
        <p className="flex-1 basis-64 text-2xl leading-snug font-bold">
          {words} {more && <span className="block text-base font-normal text-secondary">{more}</span>}
        </p>
        <AtTheThumb>{children}</AtTheThumb>
      </div>
      {beside}
    </section>
  )
}
