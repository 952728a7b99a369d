import { describe, expect, it } from 'vitest'
import type { Test } from '../api/client'
import { needOf, plain, roundOf } from './words'

const test = (params: Partial<NonNullable<Test['params']>>): Test => ({
  id: 't',
  kind: 'drive',
  name: 't',
  unit: 'MB/s',
  better: 'higher',
  params: { pattern: 'sequential', op: 'read', block_bytes: 1 << 20, depth: 8, span_bytes: 1 << 30, ...params },
})

describe('plain', () => {
  it('says what is done', () => {
    expect(plain(test({}))).toBe('Reads 1 MiB blocks one after another, 8 at once.')
    expect(plain(test({ pattern: 'random', depth: 1, block_bytes: 4096 }))).toBe('Reads 4 KiB blocks at random places, one at a time.')
    expect(
      plain(test({ op: 'mix', read_share: 0.7, pattern: 'hot', depth: 4, blocks: [{ bytes: 4096, share: 0.6 }, { bytes: 65536, share: 0.4 }] })),
    ).toBe('Reads (70 %) and writes blocks of 4 KiB, 64 KiB at random places, most of them in one part, 4 at once.')
    expect(plain({ ...test({}), params: undefined })).toBe('')
  })
})

describe('plain, of further tests', () => {
  it('says what is done with files and streams', () => {
    expect(plain(test({ sweep: [4096, 16 << 20], block_bytes: 16 << 20 }))).toBe('Reads one after another in blocks of 4 KiB up to 16 MiB.')
    expect(plain(test({ op: 'write', fresh: true, span_bytes: 16 * 2 ** 30 }))).toBe('Writes up to 16 GiB in one go, to see when writing slows down.')
    expect(plain(test({ existing: true }))).toContain('nothing is written')
    expect(plain(test({ op: 'write', streams: { count: 2, width: 1920, height: 1080, frames_s: 25, bits: 8 } }))).toBe(
      'Writes 2 recordings side by side; together they need 104 MB/s.',
    )
    const files = { ...test({}), params: undefined, kind: 'file' as const }
    expect(plain({ ...files, file_work: { op: 'copy', set: { files: 1, median_bytes: 2 ** 30 } } })).toBe(
      'Copies a file of 1 GiB, read from the drive and written back to it.',
    )
    expect(plain({ ...files, file_work: { op: 'make-and-copy', set: { files: 3000, median_bytes: 8192 } } })).toBe(
      'Makes 3,000 files, half of them below 8 KiB, then copies them.',
    )
    expect(plain({ ...files, file_work: { op: 'read' } })).toContain('Nothing is written')
    expect(plain({ ...files, kind: 'control', what: 'processor' })).toContain('It doesn’t use the drive')
  })
})

describe('needOf', () => {
  it('takes the rate, or the pictures', () => {
    expect(needOf({ count: 3, mb_s: 40 })).toBe(120)
    expect(needOf({ count: 1, width: 1000, height: 1000, frames_s: 10, bits: 8 })).toBe(10)
    expect(needOf({ count: 1 })).toBe(0)
  })
})

describe('roundOf', () => {
  it('adds up time and writing, the laying out included', () => {
    const parts = [
      { test: test({}), cover: { run_s: 5, run_writes: 0 }, runs: 3 },
      { test: test({ op: 'write' }), cover: { run_s: 8, run_writes: 8 * 2 ** 30 }, runs: 2 },
      { test: test({ fresh: true, span_bytes: 2 ** 40 }), cover: { run_s: 300, run_writes: 7 }, runs: 1 },
      { test: test({}), cover: { run_s: 9, run_writes: 9 }, runs: 0 },
    ]
    expect(roundOf(parts)).toEqual({ seconds: 15 + 16 + 300, span: 2 ** 30, writes: 2 * 8 * 2 ** 30 + 7 + 2 ** 30 })
    expect(roundOf([])).toEqual({ seconds: 0, span: 0, writes: 0 })
  })
})
