import { describe, expect, it } from 'vitest'
import type { View } from '../api/client'
import { nextPath } from './paths'
import { conditionsInWords, driveName, lastSitting, missingRuns, reasonAside, runsOf } from './view'

const run = (id: string, sitting: string, set_aside: null | string | { reason: string } = null) => ({ id, test: 't', sitting, value: 1, method: 'typed', set_aside })
const view = {
  id: 'j',
  job: {
    setups: [],
    sittings: [
      { id: 's1', setup: 'then', conditions: {} },
      { id: 's2', setup: 'now', conditions: {} },
      { id: 's3', setup: 'then', conditions: {} },
    ],
    runs: [run('a', 's1'), run('b', 's2'), run('c', 's3', 'door')],
  },
  coverage: [{ test: 't', setup: 'then', kept: 1, aside: 1, wanted: 3 }],
  next: { do: 'time', test: 't', setup: 'then' },
} as unknown as View

describe('reading a job', () => {
  it('finds runs over all sittings of a setup', () => {
    expect(runsOf(view, 't', 'then').map((r) => r.id)).toEqual(['a', 'c'])
    expect(lastSitting(view, 'then')?.id).toBe('s3')
    expect(lastSitting(view, 'moon')).toBeUndefined()
  })
  it('reads both forms of setting aside', () => {
    expect(reasonAside(run('x', 's', 'door'))).toBe('door')
    expect(reasonAside(run('x', 's', { reason: 'cat' }))).toBe('cat')
    expect(reasonAside(run('x', 's'))).toBeUndefined()
  })
  it('counts what is missing', () => {
    const t = { id: 't', kind: 'timed', name: '', unit: 's', better: 'lower' } as const
    expect(missingRuns(view, t, 'then')).toBe(2)
    expect(missingRuns(view, t, 'moon')).toBe(0)
  })
  it('names drives and conditions', () => {
    expect(driveName({ kind: 'nvme', capacity_bytes: 1e12 })).toBe('1 TB NVMe SSD')
    expect(driveName(undefined)).toBe('not chosen yet')
    expect(conditionsInWords({ power: 'mains', busy: ['update'], encrypted: false, fill_pct: 61.4 })).toEqual([
      'on mains',
      'running: update',
      'not encrypted',
      '61 % full',
    ])
    expect(conditionsInWords({})).toEqual([])
  })
  it('knows where the next step is done', () => {
    expect(nextPath(view)).toBe('/jobs/j/timer/then/t')
    const next = (what: string) => nextPath({ ...view, next: { ...view.next, do: what } } as View)
    expect(next('measure')).toBe('/jobs/j/measure/then')
    expect(next('report')).toBe('/jobs/j/ledger')
    expect(next('take-out')).toBeNull()
  })
})
