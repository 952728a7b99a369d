import { describe, expect, it } from 'vitest'
import { aligned, decades, readout, type Curve } from './plotted'

describe('decades', () => {
  it.each([
    ['powers of ten where there are enough', 0.09, 120, [0.1, 1, 10, 100]],
    ['1, 2 and 5 where those are few', 1, 9, [1, 2, 5]],
    ['its ends among them', 4, 4096, [10, 100, 1000]],
    ['two decades', 0.5, 60, [0.5, 1, 2, 5, 10, 20, 50]],
  ])('keeps a logarithmic axis readable: %s', (_, from, to, want) => expect(decades(from, to)).toEqual(want))
})

describe('readout', () => {
  const curves: Curve[] = [
    { id: 'a', side: 'then', name: 'Then', points: [[0, 74], [2, 72]] },
    { id: 'b', side: 'now', name: 'Now', faint: true, points: [[0, 1], [1, 1]] },
    { id: 'c', side: 'now', name: 'Now', points: [[1, 505], [4, 490]] },
  ]
  const x = { label: 'time', write: (v: number) => `${v} s` }
  const y = { label: 'rate', write: (v: number) => `${v} MB/s` }
  it.each([
    [0, '0 s: Then 74 MB/s'],
    [1, '1 s: Then 74 MB/s · Now 505 MB/s'],
    [2, '2 s: Then 72 MB/s · Now 505 MB/s'],
    [3, '4 s: Now 490 MB/s'],
    [9, ''],
  ])('says what the strong curves show at place %i', (at, want) => expect(readout(aligned(curves), curves, at, x, y)).toBe(want))
  it('has nothing to say of no curves', () => expect(aligned([])).toEqual([[]]))
})
