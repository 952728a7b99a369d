import { useState, type PointerEvent } from 'react'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { useOwnLayout, useSwap } from './queries'
import { pagePath } from '../job/paths'
import { Choice } from '../ui/Choice'
import { capacity, partSize as size } from '../ui/format'
import { Refusal, SideMark } from '../ui/parts'
import { Save } from '../ui/Save'
import { asQuery, handlesOf, moved, sizesOf, step, type Handle, type Sizes } from './own'
import { meaning } from './room'
import { inAYear } from './year'

type Fitting = Schemas['Fit']
type Part = { number: number; start: number; size: number; used: number; role: string; name: string }

/** answers say where the new room goes. */
const answers: Record<string, string> = { system: 'To the system', 'by-use': 'In proportion to what each uses', 'same-size': 'Nowhere yet' }

/** ways name the layouts, on paper too. */
export const ways: Record<string, string> = { ...answers, own: 'By hand' }

/** Fit shows how the old drive's partitions come to lie on the new one, both drawn to one scale. */
export function Fit({ job }: { job: string }) {
  const swap = useSwap(job)
  if (swap.error) return <Refusal error={swap.error} again={() => void swap.refetch()} />
  if (!swap.data) return null
  return swap.data.fit ? <Drawn job={job} fit={swap.data.fit} /> : null
}

function Drawn({ job, fit }: { job: string; fit: Fitting }) {
  const [answer, setAnswer] = useState('system')
  const [sizes, setSizes] = useState<Sizes>()
  const as = sizes ? 'own' : answer
  const own = useOwnLayout(job, asQuery(sizes ?? {}), sizes !== undefined)
  const given = fit.ways.find((w) => w.as === answer) ?? fit.ways[0]!
  const way = (sizes && own.data) || given
  const l = way.layout
  const choose = (to: string) => {
    setSizes(undefined)
    setAnswer(to)
  }
  // An edge that is dragged resumes from what is in sight.
  const drag = (n: number, bytes: number) => setSizes((before) => ({ ...(before ?? sizesOf(l)), [n]: bytes }))
  return (
    <section aria-labelledby="fit" className="border-t border-base-300 pt-2">
      <div className="flex flex-wrap items-end gap-x-6 gap-y-2">
        <div className="mr-auto">
          <h2 id="fit" className="text-xl font-bold">
            Will it fit
          </h2>
          <p role="status" className={l.fits ? '' : 'text-error'}>
            {l.fits ? `Yes: ${capacity(fit.used_bytes)} of ${capacity(fit.capacity_bytes)} are used; the new drive has ${capacity(fit.new_capacity_bytes)}.` : 'No, not like this.'}
          </p>
          {fit.in_a_year && <p className={fit.in_a_year.too_full ? 'font-semibold text-warning' : 'text-secondary'}>{inAYear(fit.in_a_year, fit.new_capacity_bytes)}</p>}
        </div>
        {fit.ways.some((w) => w.layout.fits) && <Choice label="Where should the new room go?" value={sizes ? '' : answer} options={Object.entries(answers).map(([value, label]) => ({ value, label }))} onChange={choose} />}
      </div>
      {l.fits && <p className="pt-1">{meaning(as, fit, l)}</p>}
      <Drawing fit={fit} layout={l} handles={l.fits ? handlesOf(l, sizes) : undefined} onSize={drag} />
      {l.fits && <p className="pt-1 text-sm text-secondary">You can also drag the end of a partition, or move it with the arrow keys. It can’t become smaller than its contents.</p>}
      {own.error && sizes && <Refusal error={own.error} />}
      {l.fits && (
        <p className="mt-2 flex flex-wrap gap-2">
          <Save name="layout.sfdisk" of={() => new Blob([way.script], { type: 'text/plain' })}>
            Script for sfdisk
          </Save>
          <Save name="layout.json" of={() => new Blob([JSON.stringify(l, null, 2)], { type: 'application/json' })}>
            JSON
          </Save>
          <Link className="btn btn-sm" to={`${pagePath(job, 'swap')}/sheet?as=${as}${sizes ? `&sizes=${asQuery(sizes)}` : ''}`}>
            Print layout
          </Link>
        </p>
      )}
    </section>
  )
}

/** Drawing is the old drive over the new one, both to one scale, with what is to be known of it; handles are the ends of partitions that can be dragged. */
export function Drawing({ fit, layout: l, table, handles, onSize }: { fit: Fitting; layout: Fitting['ways'][number]['layout']; table?: boolean; handles?: Handle[]; onSize?: (number: number, bytes: number) => void }) {
  const roles = new Map(l.partitions.map((p) => [p.of, p.role]))
  const before = fit.partitions.map((p) => ({ number: p.number, start: p.start_bytes, size: p.size_bytes, used: p.used_bytes ?? 0, role: roles.get(p.number) ?? '', name: p.name ?? '' }))
  const after = l.partitions.map((p) => ({ number: p.number, start: p.start_bytes, size: p.size_bytes, used: p.used_bytes ?? 0, role: p.role, name: p.name }))
  const most = Math.max(fit.capacity_bytes, fit.new_capacity_bytes)
  return (
    <>
      <Bar side="then" label="Old" parts={before} capacity={fit.capacity_bytes} most={most} />
      {l.fits && <Bar side="now" label="New" parts={after} capacity={fit.new_capacity_bytes} most={most} handles={handles} onSize={onSize} />}
      {l.warnings.length > 0 && (
        <ul className="mt-2 ml-5 list-disc">
          {l.warnings.map((w) => (
            <li key={w.rule + w.words}>{w.words}</li>
          ))}
        </ul>
      )}
      {l.fits && (table ? <Table before={before} after={after} /> : <Folded before={before} after={after} />)}
    </>
  )
}

/** Bar is a drive drawn to scale: its partitions, how full they are, and what no partition has. */
function Bar({ side, label, parts, capacity: whole, most, handles, onSize }: { side: 'then' | 'now'; label: string; parts: Part[]; capacity: number; most: number; handles?: Handle[]; onSize?: (number: number, bytes: number) => void }) {
  const x = (bytes: number) => `${(bytes / most) * 100}%`
  return (
    <div className="mt-2 flex items-center gap-3">
      <span className={`flex w-16 shrink-0 items-center gap-1.5 font-semibold ${side === 'then' ? 'text-then' : 'text-now'}`}>
        <SideMark side={side} /> {label}
      </span>
      <div className="relative w-full">
        <svg className="block h-14 w-full" role="img" aria-label={`${label} drive, ${capacity(whole)}: ${parts.map((p) => `${p.role} ${size(p.size)}`).join(', ')}`}>
          <rect x="0" y="1" width={x(whole)} height="54" className="fill-base-100 stroke-base-content" strokeDasharray="3 3" />
          {parts.map((p) => (
            <g key={p.number}>
              <rect x={x(p.start)} y="1" width={x(p.size)} height="54" className={`stroke-base-content ${side === 'then' ? 'fill-then-soft' : 'fill-now-soft'}`} />
              <rect x={x(p.start)} y="43" width={x(p.used)} height="12" className={side === 'then' ? 'fill-then' : 'fill-now'} />
              {p.size / most > 0.12 && (
                <svg x={x(p.start)} width={x(p.size)} y="0" height="44">
                  <text x="8" y="18" className="fill-base-content text-sm font-semibold">
                    {p.role || p.name}
                  </text>
                  <text x="8" y="36" className="fill-base-content text-sm">
                    {size(p.size)}
                  </text>
                </svg>
              )}
            </g>
          ))}
        </svg>
        {handles?.map((h) => (
          <Grip key={h.number} of={h} most={most} onSize={(bytes) => onSize?.(h.number, bytes)} />
        ))}
      </div>
    </div>
  )
}

/** Grip is the end of a partition: dragged, or moved with the arrow keys, a GB at a time. */
function Grip({ of: h, most, onSize }: { of: Handle; most: number; onSize: (bytes: number) => void }) {
  const at = (e: PointerEvent<HTMLElement>) => {
    const bar = e.currentTarget.parentElement!.getBoundingClientRect()
    const bytes = ((e.clientX - bar.left) / bar.width) * most - h.start
    onSize(Math.min(h.most, Math.max(h.least, Math.round(bytes / step) * step)))
  }
  return (
    <span
      role="slider"
      tabIndex={0}
      aria-label={`End of partition ${h.number}, ${h.role}`}
      aria-valuemin={Math.round(h.least / step)}
      aria-valuemax={Math.round(h.most / step)}
      aria-valuenow={Math.round(h.size / step)}
      aria-valuetext={size(h.size)}
      className="absolute top-0 h-14 w-6 -translate-x-1/2 cursor-ew-resize touch-none rounded-sm border-x-4 border-base-content bg-base-100/70"
      style={{ left: `min(${((h.start + h.size) / most) * 100}%, 100% - 0.75rem)` }}
      onKeyDown={(e) => {
        const to = moved(h, e.key)
        if (to === undefined) return
        e.preventDefault()
        onSize(to)
      }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        if (e.currentTarget.hasPointerCapture(e.pointerId)) at(e)
      }}
    />
  )
}

function Folded(of: { before: Part[]; after: Part[] }) {
  return (
    <details className="mt-2">
      <summary className="cursor-pointer text-secondary">As a table</summary>
      <Table {...of} />
    </details>
  )
}

/** Table says the same figures as the drawing. */
function Table({ before, after }: { before: Part[]; after: Part[] }) {
  const was = new Map(before.map((p) => [p.number, p]))
  return (
    <div className="overflow-x-auto print:overflow-visible">
        <table className="w-full min-w-96 text-sm">
          <thead>
            <tr className="border-b border-base-content text-left">
              <th scope="col">Partition</th>
              <th scope="col" className="text-right">
                Used
              </th>
              <th scope="col" className="text-right text-then">
                Old size
              </th>
              <th scope="col" className="text-right text-now">
                New size
              </th>
            </tr>
          </thead>
          <tbody>
            {after.map((p) => (
              <tr key={p.number} className="border-b border-base-300">
                <th scope="row" className="py-1 text-left font-normal">
                  {p.number}: {p.role}
                  {p.name && p.name !== p.role && `, ${p.name}`}
                </th>
                <td className="text-right">{p.used > 0 ? size(p.used) : 'not known'}</td>
                <td className="text-right">{size(was.get(p.number)?.size ?? 0)}</td>
                <td className="text-right">{size(p.size)}</td>
              </tr>
            ))}
          </tbody>
        </table>
    </div>
  )
}
