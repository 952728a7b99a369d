// @vitest-environment jsdom
import { expect, it } from 'vitest'
import { nextPiece, pieces } from './upload'

it('sends pieces that take about four seconds', () => {
  const rate = 100_000 // bytes a second: a slow line
  let piece = pieces.first
  for (let n = 0; n < 10; n++) piece = nextPiece(piece, (piece / rate) * 1000)
  expect(piece / rate).toBeCloseTo(4, 0)
})

it('keeps pieces within their bounds', () => {
  let fast = pieces.first
  for (let n = 0; n < 10; n++) fast = nextPiece(fast, 1)
  expect(fast).toBe(pieces.most)
  let broken = pieces.most
  for (let n = 0; n < 10; n++) broken = nextPiece(broken, undefined)
  expect(broken).toBe(pieces.least)
  expect(nextPiece(pieces.first, 0)).toBe(4 * pieces.first)
})
