import { expect, it, vi } from 'vitest'
import { newKey } from './key'

it('makes a new key each time, under a plain address as well', () => {
  vi.stubGlobal('crypto', { getRandomValues: crypto.getRandomValues.bind(crypto) }) // what there is under one
  const keys = Array.from({ length: 100 }, newKey)
  vi.unstubAllGlobals()
  expect(new Set(keys).size).toBe(100)
  for (const k of keys) expect(k).toMatch(/^[0-9a-f]{32}$/)
})
