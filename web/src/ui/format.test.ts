import { describe, expect, it } from 'vitest'
import cases from '../../../core/words/testdata/figures.json'
import { bytes, capacity, clock, figure, giveOrTake, isoDay, lasted, minutes, since } from './format'

describe('figures', () => {
  // One table holds the bench and the pages to the same rounding.
  it('round as the bench does', () => {
    expect(cases.length).toBeGreaterThan(5)
    for (const c of cases) expect(figure(c.value, 's')).toBe(c.words)
  })

  it('write a clock’s time without a unit of seconds', () => {
    expect(lasted(41.26)).toBe('41.3 s')
    expect(lasted(92.9)).toBe('1:32.9')
  })

  it.each([
    [92.4, '92.4 s'],
    [108.2, '108 s'],
    [0.82, '0.820 s'],
    [5.443, '5.44 s'],
    [9.999, '10.0 s'],
    [0, '0 s'],
  ])('%f reads %s', (v, want) => expect(figure(v, 's')).toBe(want))

  it.each([
    [0.0275, 1.551, '± 0.03 s'],
    [0.0021, 1.551, '± 0.002 s'],
    [0.283, 92.4, '± 0.3 s'],
    [0.04, 92.4, '± 0.04 s'],
    [3.2, 185, '± 3 s'],
    [0.2, undefined, '± 0.20 s'],
    [0.0312, undefined, '± 0.031 s'],
    [0, 3, '± 0.00 s'],
  ])('give or take %f beside %o reads %s', (u, beside, want) => expect(giveOrTake(u, 's', beside)).toBe(want))

  it.each([
    [7.34, '7.3'],
    [59.94, '59.9'],
    [60, '1:00.0'],
    [185.16, '3:05.1'],
    [-1, '0.0'],
  ])('a clock at %f reads %s', (s, want) => expect(clock(s)).toBe(want))

  it.each([
    [0, ''],
    [0.2, '10 s'],
    [0.01, '5 s'],
    [3.4, '3 min'],
  ])('%f minutes read %s', (m, want) => expect(minutes(m)).toBe(want))

  it.each([
    [512, '512 B'],
    [4096, '4 KiB'],
    [1 << 30, '1 GiB'],
    [1.5 * 2 ** 30, '1.5 GiB'],
  ])('%i bytes read %s', (n, want) => expect(bytes(n)).toBe(want))

  it.each([
    [500107862016, '500 GB'],
    [1000204886016, '1 TB'],
    [1.92e12, '1.92 TB'],
  ])('a drive of %i reads %s', (n, want) => expect(capacity(n)).toBe(want))

  it('says how long ago something was', () => {
    const at = '2026-03-01T12:00:00Z'
    const now = Date.parse(at)
    expect(since(at, now + 20_000)).toBe('just now')
    expect(since(at, now + 20 * 60_000)).toBe('20 min ago')
    expect(since(at, now + 26 * 3600_000)).toBe('26 h ago')
    expect(since(at, now + 5 * 86_400_000)).toBe('5 days ago')
    expect(since(at, now - 60_000)).toBe('just now')
  })
})

it('the end of a day is that day wherever the page is looked at', () => {
  for (const d of ['2026-01-05', '2026-11-30']) expect(isoDay(new Date(`${d}T23:59:59`).toISOString())).toBe(d)
})
