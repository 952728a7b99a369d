import { expect, test } from 'vitest'
import { links, linkOf, said } from './stated'

const setup = { id: 'then', role: 'then', computer: 'c1', drive: 'd1' } as const

test('the links of a port, and what is noted already', () => {
  expect(links('sata').map((l) => l.value)).toEqual(['1.5 Gb/s', '3 Gb/s', '6 Gb/s'])
  expect(links('usb', '480 Mb/s').map((l) => l.value)).toContain('480 Mb/s')
  expect(links('m2').map((l) => l.value)).toEqual(expect.arrayContaining(['4.0 x4', '6 Gb/s']))
  expect(linkOf('m2')).toBe('pcie')
})

test('what nobody noted is not said', () => {
  expect(said(setup, undefined)).toBe('')
})

test('what was stated otherwise stands beside what the probe found', () => {
  expect(
    said({ ...setup, attached: { port: 'sata', source: 'probe', stated: { port: 'usb' } }, link: { negotiated: '6 Gb/s' }, system: { origin: 'cloned', version: '10' } }, { id: 'd1', kind: 'hdd', rpm: 5400, fate: 'kept' }),
  ).toBe('SATA, 6 Gb/s (stated: USB) · cloned · 10 · 5400 rpm · kept here')
})
