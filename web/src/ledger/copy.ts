import type { Ledger, Row } from '../api/client'

/** cell is a text as a spreadsheet takes it: quoted, and never a formula. */
const cell = (s: string | number | null | undefined) => {
  const text = s === null || s === undefined ? '' : String(s)
  return `"${(typeof s === 'string' && /^[=+\-@\t]/.test(text) ? `'${text}` : text).replaceAll('"', '""')}"`
}

/** lineAsText says a line in one sentence, for a message. */
export function lineAsText(r: Row, names: [string, string]): string {
  const sides = [r.words.then && `${names[0]} ${r.words.then}`, r.words.with && `${names[1]} ${r.words.with}`].filter(Boolean).join(', ')
  const more = [r.words.factor, r.words.waiting, r.words.saves, r.words.range, r.words.doubt].filter(Boolean).join(', ')
  return `${r.test.name}: ${[sides, more].filter(Boolean).join(' · ')}`
}

/** ledgerAsText says all lines, one a row, with its findings. */
export const ledgerAsText = (l: Ledger, names: [string, string]) =>
  [
    l.simulated ? 'Simulated: not a real computer.' : '',
    l.savings?.words ?? '',
    ...l.rows.map((r) => lineAsText(r, names)),
    ...l.findings.map((f) => `! ${f.title}. ${[f.then && `${names[0]}: ${f.then}.`, f.with && `${names[1]}: ${f.with}.`].filter(Boolean).join(' ')}`),
  ]
    .filter(Boolean)
    .join('\n')

/** ledgerAsCSV is one row per line, unrounded. */
export function ledgerAsCSV(l: Ledger): string {
  const head = ['test', 'unit', 'then', 'then_runs', 'with', 'with_runs', 'factor', 'low', 'high', 'verdict', 'holds_after_all', 'findings']
  const rows = l.rows.map((r) => [
    r.test.name,
    r.test.unit,
    r.line.then?.centre,
    r.line.then?.n,
    r.line.with?.centre,
    r.line.with?.n,
    r.line.factor,
    r.line.low,
    r.line.high,
    r.line.verdict,
    String(r.line.holds_after_all),
    r.line.findings.join(' '),
  ])
  return [head, ...rows].map((r) => r.map(cell).join(',')).join('\r\n') + '\r\n'
}
