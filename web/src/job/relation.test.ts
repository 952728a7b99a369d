import { describe, expect, it } from 'vitest'
import type { Setup, View } from '../api/client'
import { comesOut, goesBack, relationOf } from './relation'

const setup = (s: Partial<Setup>): Setup => ({ id: 'now', role: 'now', computer: 'c1', drive: 'd2', ...s })
const job = (now: Partial<Setup>, stays?: string) =>
  ({ job: { job: { number: '1', reason: '', stays }, setups: [setup({ id: 'then', role: 'then', drive: 'd1' }), setup(now)] } }) as unknown as View

describe('how a drive joins', () => {
  it.each([
    ['nobody said', {}, undefined],
    ['an older job, replaced', { replaces: 'd1' }, 'replaces'],
    ['an older job, added', { adds: true, replaces: 'd1' }, 'added'],
    ['an older job, cached', { cache_drive: 'd2' }, 'cache'],
    ['said since', { replaces: 'd1', relation: 'tried' as const }, 'tried'],
    ['taken back', { relation: '' as const }, undefined],
  ])('%s', (_, s, want) => expect(relationOf(setup(s))).toBe(want))
  it('is not known of no drive', () => expect(relationOf(undefined)).toBeUndefined())
  it('decides whether the old drive comes out', () => {
    expect(comesOut(job({}))).toBe(true)
    expect(comesOut(job({ relation: 'added' }))).toBe(false)
    expect(comesOut(job({ relation: 'cache' }))).toBe(false)
  })
  it('tells what goes home', () => {
    expect(goesBack(job({}))).toBe(false)
    expect(goesBack(job({}, 'now'))).toBe(false)
    expect(goesBack(job({}, 'then'))).toBe(true)
    expect(goesBack(job({ relation: 'returns' }))).toBe(true)
  })
})
