import { describe, expect, it } from 'vitest'
import type { Row } from '../api/client'
import { whatRunsWouldDo } from './decided'

const row = (further: string, runs: number | null, factor: number | null = 1.2) => ({ line: { factor, further_runs: runs }, words: { further } }) as Row

describe('whether further runs are worth taking', () => {
  it.each([
    ['one side, few runs', undefined, false, ''],
    ['one side, close together', undefined, true, 'Enough: the runs agree closely.'],
    ['decided', row('', 0), false, 'Decided: further runs are not needed.'],
    ['two more would decide', row('2 more runs on Now would decide it.', 2), true, '2 more runs on Now would decide it.'],
    ['runs will not', row('Further runs will not decide it; a second session might.', null), true, 'Further runs will not decide it; a second session might.'],
    ['not comparable: the side alone', row('', null, null), true, 'Enough: the runs agree closely.'],
  ])('%s', (_, of, enough, want) => expect(whatRunsWouldDo(of, enough)).toBe(want))
})
