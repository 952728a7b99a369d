import { describe, expect, it } from 'vitest'
import type { Test } from '../api/client'
import { plain, roundOf } from './words'

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

describe('roundOf', () => {
  it('adds up time and writing, the laying out included', () => {
    const parts = [
      { test: test({ max_seconds: 5 }), runs: 3 },
      { test: test({ op: 'write', max_bytes: 8 * 2 ** 30 }), runs: 2 },
      { test: test({}), runs: 0 },
    ]
    expect(roundOf(parts)).toEqual({ seconds: 15 + 16, span: 2 ** 30, writes: 2 * 8 * 2 ** 30 + 2 ** 30 })
    expect(roundOf([])).toEqual({ seconds: 0, span: 0, writes: 0 })
  })
})
