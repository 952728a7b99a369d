// @vitest-environment jsdom
import { describe, expect, it } from 'vitest'
import type { Test } from '../api/client'
import { marksOf, valueOf } from './marks'
import { typeOf } from './upload'

const test: Test = { id: 't', kind: 'timed', name: 'Start', unit: 's', better: 'lower' }
const phases = [{ id: 'a', name: 'to the sign-in' }, { id: 'b', name: 'password', counts: false }]
const mark = (at: number, frame = 1 / 30) => ({ at, frame, still: '' })

describe('marks', () => {
  it('are a start and the end of each phase', () => {
    expect(marksOf(test)).toEqual(['Start', 'End'])
    expect(marksOf({ ...test, phases })).toEqual(['Start', 'End of “to the sign-in”', 'End of “password”'])
  })
  it('come to what counts, unsure by the frames', () => {
    const whole = valueOf(test, [mark(1), mark(9.4)])
    expect(whole.value).toBeCloseTo(8.4)
    expect(whole.u).toBeCloseTo(Math.SQRT2 / 30 / Math.sqrt(12))
    expect(valueOf({ ...test, phases }, [mark(1), mark(3), mark(9)]).value).toBeCloseTo(2)
    expect(valueOf({ ...test, phases }, [mark(1), mark(3), mark(9, 5)]).u).toBeCloseTo(Math.SQRT2 / 30 / Math.sqrt(12))
  })
  it('are all unsure where a password lies between', () => {
    const withDesktop = [...phases, { id: 'c', name: 'to a usable desktop' }]
    expect(valueOf({ ...test, phases: withDesktop }, [mark(1), mark(3), mark(9), mark(12)]).u).toBeCloseTo(2 / 30 / Math.sqrt(12))
    const plain = [phases[0]!, { id: 'c', name: 'to a usable desktop' }]
    expect(valueOf({ ...test, phases: plain }, [mark(1), mark(3, 5), mark(12)]).u).toBeCloseTo(Math.SQRT2 / 30 / Math.sqrt(12))
  })
})

describe('typeOf', () => {
  it('goes by the name, then by what the system says', () => {
    expect(typeOf({ name: 'A.MOV', type: '' })).toBe('video/quicktime')
    expect(typeOf({ name: 'a.mp4', type: 'video/mp4' })).toBe('video/mp4')
    expect(typeOf({ name: 'a.m4v', type: 'video/x-m4v' })).toBe('video/mp4')
    expect(typeOf({ name: 'clip', type: 'video/webm' })).toBe('video/webm')
    expect(typeOf({ name: 'a.txt', type: '' })).toBe('application/octet-stream')
  })
})
