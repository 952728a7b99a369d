import { describe, expect, it } from 'vitest'
import type { Probe, View } from '../api/client'
import { codeOf, whichIsWhich, stillThere } from './which'

const view = (old: object, fresh: object) =>
  ({
    job: {
      job: { number: '2031-0147' },
      drives: [
        { id: 'd1', kind: 'hdd', capacity_bytes: 640e9, serial_digest: 'aaaaaaaabbbb', ...old },
        { id: 'd2', kind: 'sata-ssd', capacity_bytes: 960e9, serial_digest: 'ccccccccdddd', ...fresh },
      ],
      setups: [
        { id: 'then', role: 'then', drive: 'd1' },
        { id: 'now', role: 'now', drive: 'd2' },
      ],
    },
  }) as unknown as View

const probe = (partitions: object[] = []) =>
  ({
    facts: {
      drives: [
        { id: 'sda', kind: 'hdd', serial_digest: 'aaaaaaaabbbb', link: { kind: 'sata', negotiated: '3 Gb/s' } },
        { id: 'sdb', kind: 'sata-ssd', serial_digest: 'ccccccccdddd', link: { kind: 'usb', negotiated: '5 Gb/s' } },
      ],
      partitions: [{ drive: 'sda', number: 1, name: 'system', size_bytes: 640e9 }, ...partitions],
      volumes: [{ drive: 'sda', partition: 1, used_bytes: 200e9, mount: '/', system: true }],
    },
  }) as unknown as Probe

describe('which drive is which', () => {
  it('says all that tells them apart', () => {
    const { drives, warnings } = whichIsWhich(view({ maker: 'Halden', model: 'Turnstone' }, {}), [probe()])
    expect(drives).toEqual([
      { side: 'then', code: '0147 OLD', name: '640 GB hard disk', model: 'Halden Turnstone', bytes: 640e9, mark: 'aaaaaa', port: 'SATA 3 Gb/s', guessed: false, empty: false, contents: ['system, 640 GB, 200 GB used'] },
      { side: 'now', code: '0147 NEW', name: '960 GB SATA SSD', model: '', bytes: 960e9, mark: 'cccccc', port: 'USB 5 Gb/s', guessed: false, empty: true, contents: [] },
    ])
    expect(warnings).toEqual([])
  })
  it('leaves out what the probe has not seen', () => {
    expect(whichIsWhich(view({}, {}), []).drives.map((d) => [d.port, d.contents])).toEqual([
      ['', undefined],
      ['', undefined],
    ])
  })
  it.each([
    ['the same model', view({ model: 'Kestrel' }, { model: 'Kestrel' }), probe(), 'same model'],
    ['about the same size', view({ capacity_bytes: 950e9 }, {}), probe(), 'same size'],
    ['something on the new one', view({}, {}), probe([{ drive: 'sdb', number: 1, name: 'photos', size_bytes: 900e9 }]), 'not empty: photos, 900 GB.'],
  ])('warns of %s', (_, v, p, says) => {
    const { warnings } = whichIsWhich(v, [p])
    expect(warnings).toHaveLength(1)
    expect(warnings[0]).toContain(says)
  })
  it('takes the only other drive of its size for the new one, and says so', () => {
    const v = view({}, { serial_digest: undefined })
    const p = probe()
    p.facts.drives[1]!.capacity_bytes = 960e9
    expect(whichIsWhich(v, [p]).drives[1]).toMatchObject({ guessed: true, mark: 'cccccc', port: 'USB 5 Gb/s' })
    expect(whichIsWhich(v, [p, p]).drives[1]).toMatchObject({ guessed: false, mark: '', port: '' })
  })
  it('counts a fresh file system as empty', () => {
    const p = probe([{ drive: 'sdb', number: 1, size_bytes: 960e9 }])
    expect(whichIsWhich(view({}, {}), [p]).warnings).toHaveLength(1)
    p.facts.volumes.push({ drive: 'sdb', partition: 1, mount: '/media/new', system: false, used_bytes: 30e6 })
    expect(whichIsWhich(view({}, {}), [p]).warnings).toEqual([])
  })
  it('makes no code of nothing', () => expect(codeOf('7', 'now')).toBe('7 NEW'))
})

describe('an old drive that is said to be out', () => {
  const probe = (away: boolean, digest: string) => ({ away, facts: { drives: [{ serial_digest: digest }] } }) as never
  it.each([
    ['is seen by a probe', { serial_digest: 'a' }, [probe(false, 'a')], true],
    ['is not seen', { serial_digest: 'a' }, [probe(false, 'b')], false],
    ['was seen by a probe that is away', { serial_digest: 'a' }, [probe(true, 'a')], false],
    ['has no fingerprint', {}, [probe(false, '')], false],
    ['is not known', undefined, [probe(false, 'a')], false],
  ])('%s', (_, drive, probes, want) => expect(stillThere(drive, probes)).toBe(want))
})
