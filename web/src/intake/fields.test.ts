import { describe, expect, it } from 'vitest'
import type { Drive } from '../api/client'
import { driveSchema, fromComputer, fromDrive, intakeSchema, noDrive, toComputer, toDrive, toIntake, unusual } from './fields'

const drive = (more: object) => driveSchema.safeParse({ ...noDrive, kind: 'hdd', ...more })
const wrong = (more: object) => {
  const r = drive(more)
  return r.success ? '' : r.error.issues.map((i) => i.message).join()
}

describe('a drive’s form', () => {
  it.each([
    [{ capacity: '1,92 TB' }, 1.92e12],
    [{ capacity: '500GB' }, 500e9],
    [{ capacity: ' 256 GB ' }, 256e9],
    [{ capacity: '' }, undefined],
  ])('%o becomes %s bytes', (more, want) => {
    expect(toDrive(drive(more).data!).capacity_bytes).toBe(want)
  })
  it.each([
    [{ capacity: 'large' }, 'with its unit, such as 480 GB.'],
    [{ capacity: '-5 GB' }, 'with its unit'],
    [{ capacity: '480' }, '480 GB or 480 TB? Add the unit.'],
    [{ capacity: '480 furlongs' }, 'with its unit'],
    [{ capacity: '0 GB' }, 'Check the unit'],
    [{ capacity: '4800 TB' }, 'Check the unit'],
    [{ read: '4400000' }, 'Check the unit'],
    [{ price: 'cheap' }, 'The price is a number.'],
    [{ currency: 'EURO' }, 'Three letters'],
    [{ kind: 'drum' }, 'the kind of drive'],
  ])('%o is refused', (more, want) => expect(wrong(more)).toContain(want))

  it('brings a drive back as it was, to the byte', () => {
    const before: Drive = {
      id: 'd1',
      kind: 'sata-ssd',
      maker: 'Brightwater',
      model: 'S1',
      interface: 'SATA',
      capacity_bytes: 1_000_204_886_016,
      rated: { read_mb_s: 550, write_mb_s: 500, max_temp_c: 70, endurance_tb: 400 },
      price: { amount: '64.00', currency: 'EUR' },
    }
    const parsed = driveSchema.parse({ ...fromDrive(before), kind: before.kind })
    expect({ id: before.id, ...toDrive(parsed, before) }).toEqual(before)
    expect(toDrive({ ...parsed, capacity: '2 TB' }, before).capacity_bytes).toBe(2e12)
  })
})

describe('an unusual capacity', () => {
  it.each([
    ['sata-ssd', '480 TB', 'more than'],
    ['emmc', '2 TB', 'more than'],
    ['hdd', '4 GB', 'less than'],
    ['nvme', '2 TB', ''],
    ['nvme', '480', ''],
    [undefined, '480 TB', ''],
  ])('%s of %s', (kind, capacity, want) => (want ? expect(unusual(kind, capacity)).toContain(want) : expect(unusual(kind, capacity)).toBe('')))
})

describe('an intake', () => {
  const empty = {
    customer: { name: '', contact: '' },
    reason: '',
    computer: fromComputer(undefined),
    oldDrive: { ...noDrive, kind: 'hdd' as const },
    newDrive: { ...noDrive },
  }
  it('needs a name or a computer', () => {
    expect(intakeSchema.safeParse(empty).success).toBe(false)
    expect(intakeSchema.safeParse({ ...empty, customer: { name: 'Ottilie', contact: '' } }).success).toBe(true)
    expect(intakeSchema.safeParse({ ...empty, computer: { ...empty.computer, model: 'Hearth' } }).success).toBe(true)
  })
  it('needs the new drive’s kind only where it is chosen', () => {
    const named = { ...empty, customer: { name: 'Ottilie', contact: '' } }
    expect(intakeSchema.safeParse({ ...named, newDrive: { ...noDrive, capacity: '1 TB' } }).success).toBe(false)
    expect(intakeSchema.safeParse({ ...named, oldDrive: noDrive }).success).toBe(false)
    expect(toIntake(intakeSchema.parse(named)).new_drive).toBeNull()
  })
  it('counts memory in powers of two, and back', () => {
    const c = toComputer({ maker: '', model: '', processor: '', memory: '8', system: '' })
    expect(c.memory_bytes).toBe(8 * 2 ** 30)
    expect(fromComputer({ id: 'c1', ...c }).memory).toBe('8')
  })
})

describe('intake', () => {
  const form = { customer: { name: 'x', contact: '' }, reason: '', computer: fromComputer(undefined), oldDrive: { ...noDrive, kind: 'hdd' as const } }
  it('does not look at a new drive in a check-up', () => {
    const read = intakeSchema.safeParse({ ...form, kind: 'check-up', newDrive: { ...noDrive, capacity: 'large' } })
    expect(read.success && toIntake(read.data).new_drive).toBeNull()
  })
  it('says what is wrong with one that is', () => {
    const read = intakeSchema.safeParse({ ...form, newDrive: { ...noDrive, capacity: 'large' } })
    expect(read.error?.issues.map((i) => i.path.join('.'))).toEqual(expect.arrayContaining(['newDrive.capacity', 'newDrive.kind']))
  })
  it('keeps the exact memory of a computer whose field was not touched', () => {
    const before = { id: 'c1', memory_bytes: 8_254_967_808 }
    expect(toComputer({ ...fromComputer(before), maker: 'Larkfield' }, before).memory_bytes).toBe(before.memory_bytes)
    expect(toComputer({ ...fromComputer(before), memory: '16' }, before).memory_bytes).toBe(2 ** 34)
  })
})
