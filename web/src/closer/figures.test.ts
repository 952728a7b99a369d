import { describe, expect, it } from 'vitest'
import { cliffInWords, curvesOf, keepUpInWords, middle, shareOf, tiersInWords, type CloserRun } from './figures'

const run = (id: string, value: number, more: Partial<CloserRun> = {}): CloserRun => ({
  id, test: 't', sitting: 's1', value, method: 'automatic', set_aside: null, cliff: null, keep_up: null, tiers: null, mb_s: null, files_s: null, ...more,
})

describe('middle', () => {
  it('is the kept run in the middle', () => {
    expect(middle([run('a', 3), run('b', 1), run('c', 2), run('d', 99, { set_aside: 'odd' })])?.id).toBe('c')
    expect(middle([run('a', 3), run('b', 1)])?.id).toBe('b')
    expect(middle([])).toBeUndefined()
  })
})

describe('shareOf', () => {
  it('gives shares by class and ends at zero', () => {
    const points = shareOf({ from_ms: 0.1, per_decade: 10, counts: [1, 3] })
    expect(points.map((p) => p[1])).toEqual([25, 75, 0])
    expect(points[0]![0]).toBe(0.1)
    expect(points[2]![0]).toBeCloseTo(0.1 * 10 ** 0.2)
  })
})

describe('curvesOf', () => {
  it('draws the middle run last and strong, and leaves out what is set aside or has nothing', () => {
    const series = (mb_s: number[]) => ({ series: { every_s: 1, mb_s } })
    const runs = [run('a', 1, series([1])), run('b', 2, series([2])), run('c', 3, series([3])), run('d', 2, { set_aside: 'odd', ...series([9]) }), run('e', 9)]
    const curves = curvesOf({ side: 'now', name: 'Now', runs }, (r) => r.series?.mb_s.map((v, i) => [i, v]))
    expect(curves.map((c) => [c.id, c.faint])).toEqual([['a', true], ['c', true], ['b', false]])
  })
})

describe('in words', () => {
  it('says where a cliff was and why', () => {
    const cliff = { after_s: 18, after_bytes: 9e9, before_mb_s: 505, after_mb_s: 290, cause: 'cache' as const }
    expect(cliffInWords(run('a', 400, { cliff }))).toBe('After 18 s and 9.00 GB it fell from 505 MB/s to 290 MB/s: its write cache was used up.')
    expect(cliffInWords(run('a', 400, { cliff: { ...cliff, cause: 'heat' } }))).toContain('because of heat')
    expect(cliffInWords(run('a', 80, { bytes: 2 ** 34 }))).toBe('It kept its rate over 16 GiB: no fall of 30 % or more.')
  })
  it('says whether a drive keeps up', () => {
    const keep_up = { need_mb_s: 120, margin: 0.43, verdict: 'falls-behind' as const }
    expect(keepUpInWords(run('a', 51.4, { keep_up }))).toBe(
      'It does not keep up: 120 MB/s are needed, and its slowest second wrote 51.4 MB/s, 0.43 times that.',
    )
    expect(keepUpInWords(run('a', 1))).toBe('')
  })
})

describe('two tiers', () => {
  it('says which answered how much', () =>
    expect(tiersInWords(run('a', 1, { tiers: { quick_ms: 0.12, quick_share: 0.62, slow_ms: 9, slow_share: 0.38 } }))).toBe(
      'Two tiers answered: 62 % in about 0.120 ms, 38 % in about 9.00 ms. A file that was just laid out may sit in the quick one.',
    ))
  it('says nothing of one', () => expect(tiersInWords(run('a', 1))).toBe(''))
})
