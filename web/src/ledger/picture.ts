import type { Ledger } from '../api/client'
import { reasonAside } from '../job/view'
import type { Group } from './axis'

const ink = { text: '#22262b', quiet: '#5d6166', then: '#8d5a04', now: '#0b605d', grid: '#d9d4c4', paper: '#fbf8f0' }
const width = 1000
const left = 300
const right = 270
const line = 52

const escaped = (s: string) => s.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;')

/** cut shortens what would run into the drawing beside it. */
const cut = (s: string, most: number) => (s.length > most ? `${s.slice(0, most - 1)}…` : s)

/** ledgerAsSVG draws the ledger as a picture that is alone: no fonts, styles or addresses from elsewhere. */
export function ledgerAsSVG(l: Ledger, groups: Group[], names: [string, string], number: string): string {
  const out: string[] = []
  const text = (x: number, y: number, s: string, more = '') => out.push(`<text x="${x}" y="${y}" ${more}>${escaped(s)}</text>`)
  const span = width - left - right
  let y = 36
  text(20, y, `${number}: ${names[0]} ${l.then.drive}, ${names[1]} ${l.with.drive}${l.simulated ? ' (simulated)' : ''}`, 'font-size="18" font-weight="700"')
  if (l.savings) text(20, (y += 24), l.savings.words)
  for (const g of groups) {
    y += 40
    text(20, y, g.title, 'font-size="17" font-weight="700"')
    for (const t of g.axis.ticks) text(left + t.at * span, y, t.label, `font-size="11" fill="${ink.quiet}" text-anchor="middle"`)
    y += 8
    for (const r of g.rows) {
      const x = (v: number) => (left + g.axis.at(v) * span).toFixed(1)
      for (const t of g.axis.ticks) out.push(`<line x1="${left + t.at * span}" x2="${left + t.at * span}" y1="${y}" y2="${y + line - 6}" stroke="${ink.grid}"/>`)
      text(20, y + 18, cut(r.test.name, 34), 'font-weight="700"')
      text(20, y + 36, [r.words.then && `${names[0]} ${r.words.then}`, r.words.with && `${names[1]} ${r.words.with}`].filter(Boolean).join(' · '), 'font-size="13"')
      for (const [runs, side, at] of [[r.then_runs, r.line.then, 14], [r.with_runs, r.line.with, 34]] as const) {
        const colour = at === 14 ? ink.then : ink.now
        for (const run of runs) {
          const aside = reasonAside(run) !== undefined
          out.push(at === 14 ? `<rect x="${Number(x(run.value)) - 4}" y="${y + at - 4}" width="8" height="8" fill="${ink.paper}" stroke="${aside ? ink.quiet : colour}" stroke-width="2"/>` : `<circle cx="${x(run.value)}" cy="${y + at}" r="4.5" fill="${ink.paper}" stroke="${aside ? ink.quiet : colour}" stroke-width="2"/>`)
        }
        if (side) out.push(`<rect x="${Number(x(side.centre)) - 2.5}" y="${y + at - 10}" width="5" height="20" rx="1" fill="${colour}"/>`)
      }
      text(width - 20, y + 20, r.words.factor, 'font-size="16" font-weight="700" text-anchor="end"')
      text(width - 20, y + 38, r.words.doubt || r.words.waiting || r.words.range, `font-size="12" fill="${ink.quiet}" text-anchor="end"`)
      y += line
    }
  }
  y += 24
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${y}" viewBox="0 0 ${width} ${y}" font-family="sans-serif" font-size="14" fill="${ink.text}"><rect width="${width}" height="${y}" fill="${ink.paper}"/>${out.join('')}</svg>`
}
