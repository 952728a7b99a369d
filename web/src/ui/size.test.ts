import { expect, test } from 'vitest'
import { size } from './size'

test.each([
  ['4.2 GB', 4_200_000_000],
  ['4,2 gb', 4_200_000_000],
  ['512MiB', 512 * 2 ** 20],
  ['0 MB', 0],
  ['1200 bytes', 1200],
  ['4.2', undefined],
  ['4.2 furlongs', undefined],
  ['-1 GB', undefined],
  ['99999999 TiB', undefined],
  ['', undefined],
])('%s', (text, bytes) => {
  expect(size(text)).toBe(bytes)
})
