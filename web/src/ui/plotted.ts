import uPlot from 'uplot'

export type Side = 'then' | 'now'
export type Point = [x: number, y: number]

/** Curve is one line of a plot: strong where it is the one to look at, faint where it is one of several, dashed where it is a trial's. */
export type Curve = { id: string; side: Side; name: string; points: Point[]; faint?: boolean; filled?: boolean; dashed?: boolean }

/** Mark is a place on the x axis with a word on it. */
export type Mark = { x: number; side: Side; label: string }

/** Axis is what a plot's axis shows; write gives a figure of it with its unit. */
export type Axis = { label: string; log?: boolean; from?: number; at?: number[]; write: (v: number) => string }

/** tick writes a figure of an axis: as short as it is exact. */
export const tick = (v: number) => Number(v.toPrecision(6)).toLocaleString('en', { maximumSignificantDigits: 6 })

/** three keeps three significant digits, which is what can be read off a drawing. */
const three = (v: number) => Number(v.toPrecision(3))

/** aligned puts curves with places of their own onto one row of places, as the chart library wants them. */
export function aligned(curves: Curve[]): uPlot.AlignedData {
  if (curves.length === 0) return [[]]
  const tables = curves.map((c): uPlot.AlignedData => [c.points.map((p) => p[0]), c.points.map((p) => p[1])])
  return uPlot.join(tables)
}

/** decades are a logarithmic axis' ticks: powers of ten, or 1, 2 and 5 of each where those are few. */
export function decades(from: number, to: number): number[] {
  const tens: number[] = []
  const all: number[] = []
  for (let e = Math.floor(Math.log10(from)); e <= Math.ceil(Math.log10(to)); e++) {
    for (const lead of [1, 2, 5]) {
      const v = Number(`${lead}e${e}`)
      if (v < from * (1 - 1e-9) || v > to * (1 + 1e-9)) continue
      all.push(v)
      if (lead === 1) tens.push(v)
    }
  }
  return tens.length >= 3 ? tens : all
}

/**
 * readout says what the strong curves show at a place: each curve's figure there, or, where a curve has none just there, that of
 * the last place before it (steps and straight lines alike are known only where they were measured).
 */
export function readout(data: uPlot.AlignedData, curves: Curve[], at: number, x: Axis, y: Axis): string {
  const place = data[0][at]
  if (place === undefined) return ''
  const figures = curves.flatMap((c, i) => {
    const list = data[i + 1]
    const first = c.points[0]
    const last = c.points.at(-1)
    if (c.faint || !list || !first || !last || place < first[0] || place > last[0]) return []
    for (let k = at; k >= 0; k--) {
      const v = list[k]
      if (v !== null && v !== undefined) return [`${c.name} ${y.write(three(v))}`]
    }
    return []
  })
  return `${x.write(three(place))}: ${figures.map((f) => f.trim()).join(' · ') || 'nothing measured'}`
}
