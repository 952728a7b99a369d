import { describe, expect, it } from 'vitest'
import type { View } from '../api/client'
import { backPath, beginPath, sidePath } from './paths'
import { stationsOf } from './stations'
import { conditionsInWords, unknownConditions, driveName, lastSitting, missingRuns, reasonAside, runsOf } from './view'

const run = (id: string, sitting: string, set_aside: null | string | { reason: string } = null) => ({ id, test: 't', sitting, value: 1, method: 'typed' as const, set_aside })
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
    expect(driveName({ id: 'd1', kind: 'nvme', capacity_bytes: 1e12 })).toBe('1 TB NVMe SSD')
    expect(driveName(undefined)).toBe('not chosen yet')
    expect(conditionsInWords({ power: 'mains', busy: ['update'], encrypted: false, fill_pct: 61.4 })).toEqual([
      'on mains',
      'running: update',
      'not encrypted',
      '61 % full',
    ])
    expect(conditionsInWords({})).toEqual([])
  })
  it('knows where the next step is begun', () => {
    const next = (what: string) => beginPath({ ...view, page: 'then', next: { ...view.next, do: what } } as View)
    expect(next('time')).toBe('/jobs/j/timer/then/t')
    expect(next('measure')).toBe('/jobs/j/measure/then')
    expect(next('type')).toBe('/jobs/j/then?test=t')
    expect(next('take-out')).toBe('/jobs/j/then#gate')
    expect(next('fit')).toBe('/jobs/j/intake#drives')
    expect(next('report')).toBe('/jobs/j/then')
  })
  it('names what nobody noted of the conditions', () => {
    expect(unknownConditions({})).toEqual(['power', 'power mode', 'what else is running', 'encryption', 'how full it is'])
    expect(unknownConditions({ power: 'mains', power_mode: 'normal', background_mb_s: 0.1, cpu_pct: 2, encrypted: false, fill_pct: 0 })).toEqual([])
    expect(unknownConditions({ power: 'mains', power_mode: 'normal', background_mb_s: 0.1, encrypted: false, fill_pct: 0 })).toEqual(['what else is running'])
  })
})

describe('the way through a job', () => {
  const setups = [
    { id: 'then', role: 'then' },
    { id: 'now', role: 'now' },
    { id: 'trial1', role: 'trial', name: 'the quiet one' },
  ]
  const at = (page: string, here: string) =>
    stationsOf({ ...view, page, here, job: { ...view.job, job: {}, setups }, coverage: [{ test: 't', setup: 'trial1', kept: 1 }] } as unknown as View).map((s) => `${s.label}: ${s.state}`)
  it('has a station for each trial, between the swap and Now', () => {
    expect(at('swap', 'now')).toEqual(['Intake: done', 'Then: done', 'Prepare: done', 'Swap: here', 'the quiet one: done', 'Now: ahead', 'Result: ahead', 'Report: ahead'])
  })
  const kinds = (kind: string, page: string, setups: object[]) =>
    stationsOf({ ...view, page, here: page, job: { ...view.job, job: { kind }, setups }, coverage: [] } as unknown as View).map((s) => `${s.label}: ${s.state}`)
  it('goes from drive to drive in a comparison', () => {
    const setups = [{ id: 'trial1', role: 'trial', name: 'Old disk' }, { id: 'trial2', role: 'trial', name: 'New one' }]
    expect(kinds('comparison', 'trial2', setups)).toEqual(['Intake: done', 'Old disk: done', 'New one: here', 'Result: ahead', 'Report: ahead'])
  })
  it('has one measuring in a check-up', () => {
    expect(kinds('check-up', 'compare', [{ id: 'now', role: 'now' }])).toEqual(['Intake: done', 'Check-up: done', 'Result: here', 'Report: ahead'])
  })
  it('is all behind a job that is finished', () => {
    expect(at('report', '').filter((s) => !s.endsWith('done'))).toEqual([])
  })
  it('leads back from a tool to the side that it was on', () => {
    expect(sidePath('j', { id: 'trial1', role: 'trial' })).toBe('/jobs/j/trials/trial1')
    expect(backPath({ ...view, job: { ...view.job, setups } } as unknown as View, 'now')).toBe('/jobs/j/now')
    expect(backPath(view, 'moon')).toBe('/jobs/j')
  })
})
