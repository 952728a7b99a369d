// @vitest-environment jsdom
import { describe, expect, it } from 'vitest'
import type { Probe } from '../api/client'
import { probeHolding, probeOn } from './probe'

const probe = (id: string, more: Partial<Probe>) => ({ id, setup: '', leaving: false, away: false, mounts: {}, facts: { volumes: [], drives: [] }, ...more }) as unknown as Probe

describe('a probe for a setup', () => {
  const both = probe('both', { setup: 'then', mounts: { then: '/', now: '/games' } })

  it.each([
    ['the one whose computer is in it', [probe('other', { setup: 'now' }), both], 'now', 'other'],
    ['the one that has its drive as well', [both], 'now', 'both'],
    ['none that is leaving', [{ ...both, leaving: true }], 'now', undefined],
    ['none that has no such drive', [both], 'trial', undefined],
  ])('is %s', (_, list, setup, want) => expect(probeHolding(list, setup)?.id).toBe(want))

  it('times starts only where the system started from its drive', () => expect(probeOn([both], 'now')).toBeUndefined())
})
