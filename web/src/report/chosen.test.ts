import { describe, expect, it } from 'vitest'
import type { View } from '../api/client'
import { chosenOf, linesOf, photosOf } from './chosen'

const view = (report?: object) =>
  ({
    job: {
      job: { report },
      plan: { headline: 'start' },
      tests: [
        { id: 'start', name: 'Start', kind: 'timed' },
        { id: 'read', name: 'Read', kind: 'drive' },
        { id: 'cpu', name: 'Processor', kind: 'control' },
        { id: 'noise', name: 'Noise', kind: 'note' },
        { id: 'never', name: 'Never', kind: 'timed' },
      ],
      runs: [{ test: 'start' }, { test: 'read' }, { test: 'cpu' }, { test: 'noise' }],
    },
  }) as unknown as View

describe('the lines of a report', () => {
  it('are those that were measured, controls aside, in the order of the plan', () =>
    expect(linesOf(view())).toEqual([
      { test: 'start', name: 'Start', headline: true, shown: true },
      { test: 'read', name: 'Read', headline: false, shown: true },
      { test: 'noise', name: 'Noise', headline: false, shown: true },
    ]))
  it('stand as they were chosen', () =>
    expect(linesOf(view({ first: ['noise', 'start'], left_out: ['read'] })).map((l) => [l.test, l.shown])).toEqual([
      ['noise', true],
      ['start', true],
      ['read', false],
    ]))
  it('have the photos of the steps beside them', () => {
    const v = view({ photos: ['p2'] })
    v.job.plan.steps = [{ id: 's', text: 'Inside', photos: [{ id: 'p1' }, { id: 'p2' }] }] as typeof v.job.plan.steps
    expect(photosOf(v)).toEqual([
      { id: 'p1', of: 'Inside', shown: false },
      { id: 'p2', of: 'Inside', shown: true },
    ])
  })
  it('go back as they are, the headline always', () =>
    expect(chosenOf({ note: ' a ', tone: 'short', length: 'one', photos: [{ id: 'p1', of: 'Inside', shown: false }, { id: 'p2', of: 'Fan', shown: true }], lines: linesOf(view({ left_out: ['read', 'start'] })) })).toEqual({ note: 'a', short: true, length: 'one', photos: ['p2'], first: ['start', 'read', 'noise'], left_out: ['read'] }))
})
