import { describe, expect, it } from 'vitest'
import type { Schemas } from '../api/client'
import { meaning } from './room'

const part = (of: number, role: string, gb: number) => ({ of, role, size_bytes: gb * 1e9 })
const fit = { partitions: [{ number: 1, size_bytes: 1e9 }, { number: 2, size_bytes: 400e9 }, { number: 3, size_bytes: 200e9 }] } as Schemas['Fit']
const layout = (system: number, data: number, free: number) => ({ partitions: [part(1, 'boot', 1), part(2, 'system', system), part(3, 'data', data)], free_after_bytes: free * 1e9 }) as unknown as Schemas['Layout']

describe('what a layout means', () => {
  it.each([
    ['system', layout(720, 200, 0), 'The system gets 320 GB more: room for programs and for files on the same volume.'],
    ['by-use', layout(600, 320, 0), 'The system gets 200 GB more, the data partition gets 120 GB more.'],
    ['same-size', layout(400, 200, 320), '320 GB stay unallocated. You can give that room to any partition later.'],
    ['own', layout(500, 200, 220), 'The system gets 100 GB more, 220 GB stay unallocated.'],
    ['same-size', layout(400, 200, 0), 'All partitions keep their size.'],
  ])('%s', (as, l, want) => expect(meaning(as, fit, l)).toBe(want))
})
