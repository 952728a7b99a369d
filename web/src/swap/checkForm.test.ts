import { describe, expect, it } from 'vitest'
import type { Probe, Schemas, View } from '../api/client'
import { likely, checkSchema, writableOn, requestOf, underWay } from './checkForm'

const view = (fresh: object = {}) =>
  ({
    job: {
      job: {},
      drives: [
        { id: 'd1', kind: 'hdd', capacity_bytes: 640e9, serial_digest: 'old' },
        { id: 'd2', kind: 'sata-ssd', capacity_bytes: 960e9, ...fresh },
      ],
      setups: [
        { id: 'then', role: 'then', drive: 'd1' },
        { id: 'now', role: 'now', drive: 'd2' },
      ],
    },
  }) as unknown as View

const drive = (id: string, bytes: number, digest?: string) => ({ id, kind: 'sata-ssd', maker: 'Brightwater', model: id, capacity_bytes: bytes, serial_digest: digest })
const probe = (drives: object[]) =>
  ({ id: 'P', name: 'Front Desk 3', facts: { drives, absent: [], volumes: (drives as { id: string; bare?: boolean }[]).filter((d) => !d.bare).map((d) => ({ mount: `/media/${d.id}`, drive: d.id, system: false, used_bytes: 30e6 })) } }) as unknown as Probe

describe('where the probe may write', () => {
  it('never on the old drive', () => {
    const there = probe([drive('sda', 640e9, 'old'), drive('sdb', 960e9)])
    expect(writableOn(view(), [there])).toMatchObject([{ name: 'Brightwater sdb', volumes: [{ key: 'P /media/sdb' }] }])
    expect(writableOn(view(), [there, { ...there, id: 'Q', name: 'Bench' }]).map((d) => d.says)[1]).toContain('on Bench')
  })
  it('never where the drive is not known', () => {
    const there = { ...probe([]), facts: { drives: [], absent: [], volumes: [{ mount: '/media/x', system: false }] } } as unknown as Probe
    expect(writableOn(view(), [there])).toEqual([])
  })
  it.each([
    ['by its serial number', { serial_digest: 'new' }, [drive('sdb', 960e9), drive('sdc', 64e9, 'new')], 'P /media/sdc'],
    ['by its capacity', {}, [drive('sdb', 931e9), drive('sdc', 64e9)], 'P /media/sdb'],
    ['not where two are alike', {}, [drive('sdb', 960e9), drive('sdc', 950e9)], ''],
    ['not where none is like it', {}, [drive('sdc', 64e9)], ''],
    ['never one with no place to write', { serial_digest: 'bare' }, [{ ...drive('bare', 960e9, 'bare'), bare: true }], ''],
    ['not where its capacity is unknown', { capacity_bytes: undefined }, [drive('sdb', 960e9)], ''],
  ])('proposes one %s', (_, fresh, drives, key) => {
    const v = view(fresh)
    expect(likely(v, writableOn(v, [probe(drives)]))).toBe(key)
  })
})

describe('what the bench is asked for', () => {
  const form = { place: 'P E:/my drive', label: ' 0147 NEW ', what: 'sustain', minutes: '5', load: true, graphics: true, heatSink: '', room: '' }
  it('says nothing that nobody said', () => {
    expect(requestOf(checkSchema.parse(form))).toEqual({ probe: 'P', mount: 'E:/my drive', kind: 'sustain', label: '0147 NEW', seconds: 300, load: true, graphics: true, heat_sink: null, room_c: null })
  })
  it('says what was said', () => {
    const f = checkSchema.parse({ ...form, load: false, heatSink: 'no', room: '21,5' })
    expect(requestOf(f)).toMatchObject({ load: false, graphics: null, heat_sink: false, room_c: 21.5 })
    expect(requestOf({ ...f, what: 'whole' })).toEqual({ probe: 'P', mount: 'E:/my drive', kind: 'capacity', label: '0147 NEW', whole: true })
  })
  it('does not say that the graphics rested because nobody ticked it', () => expect(requestOf(checkSchema.parse({ ...form, graphics: false })).graphics).toBeNull())
  it('wants a drive', () => expect(checkSchema.safeParse({ ...form, place: '' }).success).toBe(false))
})

describe('how far it is', () => {
  const c = (more: object) => ({ kind: 'sustain', done: 0.2, loaded: false, mb_s: 0, temp_c: null, elapsed_s: 4, ...more }) as unknown as Schemas['Checking']
  it.each([
    [{ kind: 'list', done: 0.195, elapsed_s: 0 }, 'Reading the files, 19 %'],
    [{ kind: 'compare', done: 0.5, elapsed_s: 754 }, 'Reading the files, 50 %, 13 min'],
    [{ mb_s: 480, temp_c: 44.4 }, 'Writing, 480 MB/s, 44 °C, 4 s'],
    [{ loaded: true }, 'Writing, processor loaded, 4 s'],
    [{ kind: 'capacity' }, 'Writing marked blocks, 4 s'],
    [{ kind: 'capacity', done: 0.7 }, 'Reading them back, 4 s'],
  ])('%j', (more, says) => expect(underWay(c(more))).toBe(says))
})
