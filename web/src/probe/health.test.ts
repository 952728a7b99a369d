import { expect, it } from 'vitest'
import type { Probe } from '../api/client'
import { healthWords, whyUnknown } from './health'

it.each([
  [{}, ''],
  [{ reallocated: 0, pending: 0, power_on_hours: 21904 }, '0 reallocated sectors, 0 pending sectors, 21,904 power-on hours'],
  [{ wear_pct: 3.4, warnings: ['spare is low'] }, '3 % worn, spare is low'],
])('says %j', (health, want) => expect(healthWords(health)).toBe(want))

it.each([
  ['health of sda', 'that needs administrator rights', 'run as administrator'],
  ['health of sda', 'its bridge does not tell', 'its bridge does not tell'],
  ['health of sdb', 'that needs administrator rights', ''],
])('says why it knows no %s: %s', (what, why, want) =>
  expect(whyUnknown({ facts: { absent: [{ what, why }] } as unknown as Probe['facts'] }, 'sda')).toBe(want))
