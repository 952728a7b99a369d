import { describe, expect, it } from 'vitest'
import type { Schemas } from '../api/client'
import { asQuery, handlesOf, moved, sizesOf } from './own'

const part = (of: number, role: string, start: number, size: number, used?: number) => ({ of, number: of, type: '', name: '', role, start_bytes: start, size_bytes: size, used_bytes: used ?? null, moved: false, grown_bytes: 0 })
const layout = { partitions: [part(1, 'boot', 0, 1e8, 5e7), part(2, 'system', 1e8, 500e9, 300e9), part(3, 'data', 501e9, 100e9), part(4, 'recovery', 700e9, 1e9, 7e8)], free_after_bytes: 90e9 } as unknown as Schemas['Layout']

describe('sizes by hand', () => {
  it('has a handle at what may change and whose contents are known', () => {
    expect(handlesOf(layout)).toEqual([{ number: 2, role: 'system', start: 1e8, size: 500e9, least: 300e9, most: 590e9 }])
    expect(sizesOf(layout)).toEqual({ 2: 500e9 })
  })
  it('stands where it was moved to, before the bench has answered', () => {
    expect(handlesOf(layout, { 2: 420e9 })[0]).toMatchObject({ size: 420e9, most: 590e9 })
    expect(handlesOf(layout, { 2: 1 })[0]).toMatchObject({ size: 300e9 })
    expect(handlesOf(layout, { 3: 1 })[0]).toMatchObject({ size: 500e9 })
  })
  it.each([
    ['ArrowRight', 501e9],
    ['ArrowLeft', 499e9],
    ['PageUp', 510e9],
    ['PageDown', 490e9],
    ['Home', 300e9],
    ['End', 590e9],
    ['x', undefined],
  ])('moves with %s', (key, want) => expect(moved(handlesOf(layout)[0]!, key)).toBe(want))
  it('never goes below what a partition holds, nor beyond what is free', () => {
    const h = handlesOf(layout)[0]!
    expect(moved({ ...h, size: 300.5e9 }, 'PageDown')).toBe(300e9)
    expect(moved({ ...h, size: 589.5e9 }, 'ArrowRight')).toBe(590e9)
  })
  it('is written as the bench reads it', () => expect(asQuery({ 2: 500e9, 3: 1.5 })).toBe('2:500000000000,3:2'))
})
