import { describe, expect, it } from 'vitest'
import { inAYear } from './year'

describe('the year to come', () => {
  it('is said with since when and how full', () =>
    expect(inAYear({ since: '2021-05-03T09:00:00Z', used_bytes: 420e9, too_full: false }, 960e9)).toBe('At the rate at which it filled since May 2021, about 420 GB would be used in a year: 44 % of the new drive.'))
  it('warns where there is too little room', () => expect(inAYear({ since: '2021-05-03T09:00:00Z', used_bytes: 900e9, too_full: true }, 960e9)).toMatch(/too much for the new drive \(94 %\)\.$/))
})
