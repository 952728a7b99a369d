import { scaleLinear } from 'd3-scale'
import type { Setup, Test, View } from '../api/client'
import { useLedger } from '../ledger/queries'
import { coverOf, reasonAside, runsOf } from '../job/view'
import { whatRunsWouldDo } from './decided'
import { figure } from '../ui/format'

/** Settle draws the runs of a test in their order, as they settle, and says when they are enough to decide. */
export function Settle({ view, test, setup }: { view: View; test: Test; setup: Setup }) {
  // Where both sides are measured, what counts is the ledger's decision.
  const then = view.job.setups.find((s) => s.role === 'then')
  const both = setup.role !== 'then' && then !== undefined && (coverOf(view, test.id, then.id)?.kept ?? 0) > 0
  const ledger = useLedger(view.id, { then: then?.id, with: setup.id }, both)
  const runs = runsOf(view, test.id, setup.id)
  if (runs.length === 0) return null
  const cover = coverOf(view, test.id, setup.id)
  const side = setup.role === 'then' ? 'then' : 'now'
  const values = runs.map((r) => r.value)
  const low = Math.min(...values)
  const high = Math.max(...values)
  const y = scaleLinear([low - (high - low) * 0.15 - 0.01 * high, high + (high - low) * 0.15 + 0.01 * high], [40, 4])
  const step = 34
  const kept = runs.filter((r) => reasonAside(r) === undefined).map((r) => r.value).toSorted((a, b) => a - b)
  const centre = kept.length ? (kept[Math.floor((kept.length - 1) / 2)]! + kept[Math.floor(kept.length / 2)]!) / 2 : undefined
  const line = both ? ledger.data?.rows.find((r) => r.test.id === test.id) : undefined
  const said = whatRunsWouldDo(line, cover?.enough === true)
  return (
    <figure className="m-0 flex flex-wrap items-center justify-center gap-x-4 gap-y-1 text-secondary" aria-label="The runs so far">
      <svg width={Math.max(1, runs.length) * step} height="44" aria-hidden className="max-w-full">
        {centre !== undefined && <line x1="0" x2="100%" y1={y(centre)} y2={y(centre)} strokeDasharray="3 4" className={side === 'then' ? 'stroke-then' : 'stroke-now'} />}
        {runs.map((r, i) => {
          const x = i * step + step / 2
          const aside = reasonAside(r) !== undefined
          if (aside) return <path key={r.id} d={`M${x - 4} ${y(r.value) - 4}l8 8m0 -8l-8 8`} strokeWidth="2" className="stroke-secondary" />
          return side === 'then' ? (
            <rect key={r.id} x={x - 5} y={y(r.value) - 5} width="10" height="10" className="fill-then" />
          ) : (
            <circle key={r.id} cx={x} cy={y(r.value)} r="5.5" className="fill-now" />
          )
        })}
      </svg>
      <figcaption>
        So far:{' '}
        {runs.map((r, i) => (
          <span key={r.id}>
            {i > 0 && ' · '}
            <span className={reasonAside(r) ? 'line-through' : ''}>{figure(r.value, test.unit)}</span>
            {reasonAside(r) ? ' (set aside)' : ''}
          </span>
        ))}
        {said && <strong className="block text-base-content">{said}</strong>}
      </figcaption>
    </figure>
  )
}
