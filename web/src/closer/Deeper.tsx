import type { ReactNode } from 'react'
import type { Schemas, Test, View } from '../api/client'
import { driveName, driveOf, setupName, setupOf } from '../job/view'
import { bytes, figure } from '../ui/format'
import { Plot } from '../ui/Plot'
import { tick, type Mark, type Side } from '../ui/plotted'
import { curvesOf, middle, shareOf, type CloserRun } from './figures'

/** Half is a test on one setup, as it is drawn. */
export type Half = { side: Side; trial: boolean; name: string; drive: string; runs: CloserRun[]; strong: CloserRun }

/** halvesOf are the setups on which a test has runs; of, where only some of them are checked. */
export const halvesOf = (view: View, closer: Schemas['Closer'], of?: string[]) =>
  closer.sides.flatMap((s): Half[] => {
    const strong = middle(s.runs)
    const setup = setupOf(view, s.setup)
    if (!strong || !setup || (of && !of.includes(s.setup))) return []
    return [{ side: setup.role === 'then' ? 'then' : 'now', trial: setup.role === 'trial', name: setupName(setup), drive: driveName(driveOf(view, setup)), runs: s.runs, strong }]
  })

/** Deeper draws what runs contain beyond their values: the rate by size and over time, and latencies. */
export function Deeper({ halves, test }: { halves: Half[]; test: Test }) {
  const overTime = test.params?.fresh || test.params?.streams // what such a test is about stands first
  return (
    <div className="flex flex-col gap-10">
      <Sweep halves={halves} />
      {overTime && <OverTime halves={halves} />}
      <Requests halves={halves} />
      {!overTime && <OverTime halves={halves} />}
    </div>
  )
}

function Part({ title, about, children }: { title: string; about: string; children: ReactNode }) {
  return (
    <section>
      <h2 className="text-xl font-bold">{title}</h2>
      <p className="mb-3 text-secondary">{about}</p>
      {children}
    </section>
  )
}

const ms = (v: number) => figure(v, 'ms')

/** Requests is the distribution of latencies. */
function Requests({ halves }: { halves: Half[] }) {
  const told = halves.filter((h) => h.strong.latency)
  if (told.length === 0) return null
  const rows: [string, (r: CloserRun) => number][] = [
    ['half of them within', (r) => r.latency!.median_ms],
    ['99 of 100 within', (r) => r.latency!.p99_ms],
    ['999 of 1,000 within', (r) => r.latency!.p999_ms],
    ['the worst one', (r) => r.latency!.max_ms],
  ]
  const marks = told.map((h): Mark => ({ x: h.strong.latency!.p99_ms, side: h.side, label: `${h.name}: 99 of 100` }))
  return (
    <Part title="Latency" about="The wider and the further to the right, the more it stutters. The scale is logarithmic.">
      <div className="grid items-start gap-6 md:grid-cols-[minmax(0,1fr)_26rem]">
        <Plot
          curves={told.flatMap((h) => curvesOf(h, (r) => r.latency?.spread && shareOf(r.latency.spread), true))}
          x={{ label: 'the time one took', log: true, write: (v) => `${tick(v)} ms` }}
          y={{ label: 'Share of the requests', write: (v) => `${v} %` }}
          marks={marks}
          stepped
          alt={told.map((h) => `${h.name}: ${rows.map(([name, of]) => `${name} ${ms(of(h.strong))}`).join(', ')}`).join('; ')}
        />
        <table className="w-full">
          <thead>
            <tr className="border-b-2 border-base-content">
              <th scope="col">
                <span className="sr-only">Side</span>
              </th>
              {told.map((h) => (
                <th key={h.name} scope="col" className={`py-1 pl-3 text-right ${h.side === 'then' ? 'text-then' : 'text-now'}`}>
                  {h.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(([name, of]) => (
              <tr key={name} className="border-b border-base-300">
                <th scope="row" className="py-1.5 text-left font-normal">
                  {name}
                </th>
                {told.map((h) => (
                  <td key={h.name} className="py-1.5 pl-3 text-right font-semibold whitespace-nowrap">
                    {ms(of(h.strong))}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Part>
  )
}

/** Sweep is the rate by block size. */
function Sweep({ halves }: { halves: Half[] }) {
  const told = halves.filter((h) => h.strong.curve?.length)
  if (told.length === 0) return null
  const sizes = told[0]!.strong.curve!.map((p) => p.block_bytes)
  return (
    <Part title="Small and large pieces" about="Where the line levels off, larger blocks gain nothing.">
      <Plot
        curves={told.flatMap((h) => curvesOf(h, (r) => r.curve?.map((p) => [p.block_bytes / 1024, p.mb_s])))}
        x={{ label: 'the size of a piece', log: true, at: sizes.filter((_, i) => i % 2 === 0).map((n) => n / 1024), write: (v) => bytes(v * 1024) }}
        y={{ label: 'Rate', write: (v) => `${tick(v)} MB/s` }}
        alt="Rate by block size; the table below has the same values."
      />
      <div className="mt-3 overflow-x-auto">
        <table className="w-full text-sm">
          <tbody>
            <tr className="border-b-2 border-base-content">
              <th scope="row" className="py-1 pr-3 text-left">
                MB/s at
              </th>
              {sizes.map((n) => (
                <th key={n} scope="col" className="px-1 py-1 text-right whitespace-nowrap">
                  {bytes(n)}
                </th>
              ))}
            </tr>
            {told.map((h) => (
              <tr key={h.name} className="border-b border-base-300">
                <th scope="row" className={`py-1 pr-3 text-left ${h.side === 'then' ? 'text-then' : 'text-now'}`}>
                  {h.name}
                </th>
                {h.strong.curve!.map((p) => (
                  <td key={p.block_bytes} className="px-1 py-1 text-right">
                    {figure(p.mb_s, '').trim()}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Part>
  )
}

/** OverTime is the rate, and the temperature where it is known, second by second. */
function OverTime({ halves }: { halves: Half[] }) {
  const told = halves.filter((h) => (h.strong.series?.mb_s.length ?? 0) > 2)
  if (told.length === 0) return null
  const seconds = (v: number) => `${v} s`
  const hot = told.filter((h) => h.strong.series!.temp_c?.length)
  const marks = told.flatMap((h): Mark[] => (h.strong.cliff ? [{ x: h.strong.cliff.after_s, side: h.side, label: `${h.name}: it falls` }] : []))
  const slowest = (h: Half) => (h.strong.slowest_mb_s ? `${h.name}: on average ${figure(mean(h.strong.series!.mb_s), 'MB/s')}, slowest second ${figure(h.strong.slowest_mb_s, 'MB/s')}` : '')
  return (
    <Part title="Second by second" about={told.map(slowest).filter(Boolean).join('. ')}>
      <Plot
        curves={told.flatMap((h) => curvesOf(h, (r) => r.series?.mb_s.map((v, i) => [i, v])))}
        x={{ label: 'the time of the run', from: 0, write: seconds }}
        y={{ label: 'Rate', write: (v) => `${tick(v)} MB/s` }}
        marks={marks}
        alt={told.map(slowest).join('. ')}
      />
      {hot.length > 0 && (
        <div className="mt-4">
          <Plot
            curves={hot.flatMap((h) => curvesOf(h, (r) => r.series?.temp_c?.map((v, i) => [i, v])))}
            x={{ label: 'the time of the run', from: 0, write: seconds }}
            y={{ label: 'Temperature', write: (v) => `${v} °C` }}
            height={120}
            alt={hot.map((h) => `${h.name}: up to ${Math.round(h.strong.peak_temp_c ?? 0)} °C`).join('; ')}
          />
        </div>
      )}
    </Part>
  )
}

const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length
