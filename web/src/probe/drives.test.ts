import { describe, expect, it } from 'vitest'
import type { Probe } from '../api/client'
import { drivesOf, linkOf } from './drives'

const probe = (drives: object[], volumes: object[], absent: object[] = []) => ({ id: 'P', facts: { drives, volumes, absent } }) as unknown as Probe

describe('drives to pick from', () => {
  it('says size, health and port of each', () => {
    const link = { kind: 'sata', negotiated: '6 Gb/s' }
    const health = { reallocated: 12, power_on_hours: 9000 }
    const list = drivesOf(
      probe(
        [{ id: 'sda', kind: 'hdd', maker: 'Brightwater', model: 'Heron', capacity_bytes: 500e9, link, health }, { id: 'sdb', kind: 'sata-ssd' }],
        [{ mount: '/', drive: 'sda' }],
        [{ what: 'health of sdb', why: 'needs administrator rights' }],
      ),
    )
    expect(list.map((d) => `${d.name}: ${d.says}`)).toEqual([
      'Brightwater Heron: 500 GB, 12 reallocated sectors, 9,000 power-on hours, SATA 6 Gb/s',
      'SATA SSD: size unknown, health unknown: run as administrator',
    ])
    expect(list[1]!.volumes).toEqual([])
  })

  it('offers volumes of which the drive is not known', () => {
    const list = drivesOf(probe([{ id: 'sda' }], [{ mount: '/', drive: 'sda' }, { mount: '/media/x' }]))
    expect(list.map((d) => [d.name, d.drive?.id])).toEqual([
      ['sda', 'sda'],
      ['/media/x', undefined],
    ])
    expect(list[1]).toMatchObject({ says: 'the computer doesn’t say on which drive it lies', volumes: [{ key: '/media/x' }] })
  })

  it('writes where most is free, a drive without a partition table as well', () => {
    const volumes = [
      { mount: '/', drive: 'sda', partition: 2, size_bytes: 60e9, used_bytes: 50e9 },
      { mount: '/games', drive: 'sda', partition: 3, size_bytes: 400e9, used_bytes: 10e9 },
      { mount: '/whole', drive: 'sdb' },
    ]
    const list = drivesOf(probe([{ id: 'sda' }, { id: 'sdb' }], volumes), (mount) => `P ${mount}`)
    expect(list.map((d) => d.volumes)).toEqual([
      [
        { key: 'P /games', words: '/games, 390 GB free' },
        { key: 'P /', words: '/, 10 GB free' },
      ],
      [{ key: 'P /whole', words: '/whole' }],
    ])
  })
})

it.each([
  [{}, ''],
  [{ link: { kind: 'usb', negotiated: '5 Gb/s' } }, 'USB 5 Gb/s'],
  [{ link: { negotiated: '5 Gb/s' } }, '5 Gb/s'],
])('names the port of %j', (d, want) => expect(linkOf({ id: 'sda', ...d } as never)).toBe(want))
