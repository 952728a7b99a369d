import { expect, it } from 'vitest'
import { healthWords } from './health'

it.each([
  [{}, ''],
  [{ reallocated: 0, pending: 0, power_on_hours: 21904 }, '0 reallocated sectors, 0 pending sectors, 21,904 power-on hours'],
  [{ wear_pct: 3.4, warnings: ['spare is low'] }, '3 % worn, spare is low'],
])('says %j', (health, want) => expect(healthWords(health)).toBe(want))
