import { ArrowLeft } from 'lucide-react'
import { useMemo } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Schemas, Test, View } from '../api/client'
import { useCloser } from './queries'
import { useView } from '../job/JobFrame'
import { pagePath } from '../job/paths'
import { plain } from '../measure/words'
import { bytes, figure } from '../ui/format'
import { Heading } from '../ui/Heading'
import { Empty, Query, SideMark, Simulated } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { Deeper, halvesOf, type Half } from './Deeper'
import { cliffInWords, endings, keepUpInWords, kept, tiersInWords } from './figures'

/** CloserPage shows the details of one test on both sides: latencies, the rate over time, where it dropped. */
export function CloserPage() {
  const view = useView()
  const { test } = useParams()
  const closer = useCloser(view.id, test!)
  const go = useNavigate()
  const ledger = pagePath(view.id, 'compare')
  useShortcuts(useMemo(() => [{ key: 'Escape', label: 'Back to the ledger', run: () => void go(ledger) }], [go, ledger]))
  return (
    <>
      <Link to={ledger} className="inline-flex items-center gap-1 text-secondary hover:text-base-content">
        <ArrowLeft size={16} aria-hidden /> Ledger
      </Link>
      <Query of={closer} what="the runs">
        {(c) => <Opened view={view} closer={c} />}
      </Query>
    </>
  )
}

function Opened({ view, closer }: { view: View; closer: Schemas['Closer'] }) {
  const { test } = closer
  const halves = halvesOf(view, closer)
  const simulated = halves.some((h) => h.runs.some((r) => r.simulated))
  return (
    <>
      <Heading title={`${closer.test.name}, ${view.job.job.number}`} className="flex flex-wrap items-center gap-3 text-3xl font-bold tracking-tight">
        {test.name} {simulated && <Simulated />}
      </Heading>
      <p className="text-secondary">{plain(test)}</p>
      {halves.length === 0 && <Empty title="This test has no runs yet." />}
      <div className="mt-4 grid gap-x-8 gap-y-3 md:grid-cols-2">
        {halves.map((h) => (
          <Head key={h.name} half={h} test={test} />
        ))}
      </div>
      <div className="mt-6">
        <Deeper halves={halves} test={test} />
      </div>
    </>
  )
}

/** Head is a side's result, in large figures and words. */
function Head({ half, test }: { half: Half; test: Test }) {
  const r = half.strong
  const words = [
    r.keep_up && keepUpInWords(r),
    tiersInWords(r),
    test.params?.fresh && cliffInWords(r),
    r.files ? `${r.files.toLocaleString('en')} files, ${bytes(r.bytes ?? 0)}: ${figure(r.mb_s ?? 0, 'MB/s')}, ${figure(r.files_s ?? 0, 'files/s')}.` : '',
    r.ios ? `${r.ios.toLocaleString('en')} requests, ${bytes(r.bytes ?? 0)}` + (r.stopped ? `; it ${endings[r.stopped] ?? r.stopped}.` : '.') : '',
    r.half_width_pct !== undefined && !r.cliff && `Precise to ± ${r.half_width_pct.toPrecision(2)} % within the run.`,
    r.peak_temp_c !== undefined && `Up to ${Math.round(r.peak_temp_c)} °C.`,
  ].filter(Boolean)
  return (
    <section aria-label={half.name} className={`border-l-4 pl-4 ${half.side === 'then' ? 'border-then' : 'border-now'}`}>
      <h2 className="flex items-center gap-2">
        <SideMark side={half.side} size={16} />
        <strong className={half.side === 'then' ? 'text-then' : 'text-now'}>{half.name}</strong> <span className="text-secondary">{half.drive}</span>
      </h2>
      <p className="text-4xl leading-tight font-bold">{figure(r.value, test.unit)}</p>
      <p>{words.join(' ')}</p>
      {kept(half.runs).length > 1 && <p className="text-sm text-secondary">The median of {kept(half.runs).length} runs; the others are faint.</p>}
    </section>
  )
}
