import type { Row } from '../api/client'

/** whatRunsWouldDo says whether further runs are worth taking: by the ledger where both sides are measured, else by the side alone. */
export function whatRunsWouldDo(row: Row | undefined, enough: boolean): string {
  if (!row || row.line.factor === null) return enough ? 'Enough: the runs agree closely.' : ''
  return row.words.further || (row.line.further_runs === 0 ? 'Decided: further runs are not needed.' : '')
}
