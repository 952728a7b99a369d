import { z } from 'zod'
import type { Drive, Schemas } from '../api/client'

/** What is typed in at intake, as text, and what becomes of it. Numbers may have a decimal comma. */

const amount = (what: string, most: number, unit: string) =>
  z
    .string()
    .trim()
    .transform((s) => s.replace(',', '.'))
    .refine((s) => s === '' || /^\d+(\.\d+)?$/.test(s), `${what} is a number.`)
    .refine((s) => s === '' || (Number(s) > 0 && Number(s) <= most), `${what} lies above 0 and up to ${most} ${unit}. Check the unit.`)

const text = z.string().trim().max(500, 'That is longer than 500 characters.')

export const driveKindIds = ['hdd', 'sata-ssd', 'nvme', 'emmc', 'hybrid', 'cached', 'usb-flash'] as const

export const driveSchema = z.object({
  kind: z.enum(driveKindIds, 'Say what kind of drive it is.'),
  maker: text,
  model: text,
  capacity: amount('The capacity', 1_000_000, 'GB'),
  capacityUnit: z.enum(['GB', 'TB']),
  interface: text,
  read: amount('The rated reading', 100_000, 'MB/s'),
  write: amount('The rated writing', 100_000, 'MB/s'),
  price: amount('The price', 1_000_000, ''),
  currency: z.string().trim().toUpperCase().regex(/^[A-Z]{3}$/, 'Three letters, such as EUR.'),
})

export type DriveInput = z.input<typeof driveSchema>

export const computerSchema = z.object({ maker: text, model: text, processor: text, memory: amount('Memory', 65536, 'GiB'), system: text })
export type ComputerInput = z.input<typeof computerSchema>

export const customerSchema = z.object({ name: text, contact: text })

type LooseDrive = Omit<DriveInput, 'kind'> & { kind?: DriveInput['kind'] }

/** What stands in a field that is not shown is not looked at: the new drive's are, once it is chosen. */
export const intakeSchema = z
  .object({
    customer: customerSchema,
    reason: text,
    computer: computerSchema,
    oldDrive: driveSchema,
    newKnown: z.boolean(),
    newDrive: z.custom<LooseDrive>(() => true),
    relation: z.enum(['replaces', 'added', 'cache', 'tried', 'returns']).optional(),
  })
  .refine((v) => v.customer.name || v.computer.maker || v.computer.model, {
    path: ['customer', 'name'],
    message: 'Give the customer’s name or the computer, so that the job can be told from others.',
  })
  .transform((v, ctx) => {
    if (!v.newKnown) return { ...v, newDrive: undefined }
    const read = driveSchema.safeParse(v.newDrive)
    if (read.success) return { ...v, newDrive: read.data }
    for (const issue of read.error.issues) ctx.addIssue({ code: 'custom', message: issue.message, path: ['newDrive', ...issue.path] })
    return z.NEVER
  })

export type IntakeInput = z.input<typeof intakeSchema>
export type IntakeOutput = z.output<typeof intakeSchema>

export const noDrive: Omit<DriveInput, 'kind'> = {
  maker: '',
  model: '',
  capacity: '',
  capacityUnit: 'GB',
  interface: '',
  read: '',
  write: '',
  price: '',
  currency: 'EUR',
}

/** toDrive turns checked input into a drive; what stands in before is kept where the form has no field for it. */
export function toDrive(v: z.output<typeof driveSchema>, before?: Drive): Schemas['DriveIn'] {
  const number = (s: string) => (s === '' ? undefined : Number(s))
  const { max_temp_c, endurance_tb, scattered_reads_s } = before?.rated ?? {}
  const rated = known({ read_mb_s: number(v.read), write_mb_s: number(v.write), max_temp_c, endurance_tb, scattered_reads_s })
  const capacity = number(v.capacity)
  return known({
    kind: v.kind,
    maker: v.maker,
    model: v.model,
    interface: v.interface,
    rpm: before?.rpm,
    capacity_bytes: capacity && sameCapacity(before, v) ? before!.capacity_bytes : capacity && Math.round(capacity * (v.capacityUnit === 'TB' ? 1e12 : 1e9)),
    rated: Object.keys(rated).length > 0 ? rated : undefined,
    price: v.price === '' ? undefined : { amount: Number(v.price).toFixed(2), currency: v.currency },
  })
}

/** known leaves out what is not. */
const known = <T extends object>(o: T) => Object.fromEntries(Object.entries(o).filter(([, v]) => v !== undefined)) as T

/** sameCapacity tells whether the capacity still reads as it did: the exact count of bytes then stays. */
const sameCapacity = (before: Drive | undefined, v: { capacity: string; capacityUnit: string }) => {
  if (!before?.capacity_bytes) return false
  const shown = fromDrive(before)
  return shown.capacity === v.capacity && shown.capacityUnit === v.capacityUnit
}

/** fromDrive turns a drive into what stands in the form. */
export function fromDrive(d: Drive | undefined): Omit<DriveInput, 'kind'> & { kind?: Drive['kind'] } {
  if (!d) return noDrive
  const gb = (d.capacity_bytes ?? 0) / 1e9
  const shown = gb >= 1000 ? { n: Number((gb / 1000).toPrecision(3)), unit: 'TB' as const } : { n: Number(gb.toPrecision(3)), unit: 'GB' as const }
  const str = (n: number | undefined) => (n ? String(n) : '')
  return {
    kind: d.kind,
    maker: d.maker ?? '',
    model: d.model ?? '',
    capacity: str(shown.n),
    capacityUnit: shown.unit,
    interface: d.interface ?? '',
    read: str(d.rated?.read_mb_s),
    write: str(d.rated?.write_mb_s),
    price: d.price?.amount ?? '',
    currency: d.price?.currency ?? 'EUR',
  }
}

/** toComputer turns checked input into a computer. Memory that still reads as it did keeps its exact count of bytes. */
export function toComputer(v: z.output<typeof computerSchema>, before?: Schemas['Computer']): Schemas['ComputerIn'] {
  const { memory, ...rest } = v
  const same = before?.memory_bytes && fromComputer(before).memory === memory
  return known({ ...rest, graphics: before?.graphics, memory_bytes: same ? before.memory_bytes : memory === '' ? undefined : Math.round(Number(memory) * 2 ** 30) })
}

export function fromComputer(c: Schemas['Computer'] | undefined): ComputerInput {
  return {
    maker: c?.maker ?? '',
    model: c?.model ?? '',
    processor: c?.processor ?? '',
    memory: c?.memory_bytes ? String(Number((c.memory_bytes / 2 ** 30).toPrecision(3))) : '',
    system: c?.system ?? '',
  }
}

/** toIntake turns the checked form into what the bench is asked to open. */
export function toIntake(v: IntakeOutput): Schemas['Intake'] {
  return {
    customer: v.customer,
    reason: v.reason,
    computer: toComputer(v.computer),
    old_drive: toDrive(v.oldDrive),
    new_drive: v.newDrive ? toDrive(v.newDrive) : null,
    relation: (v.newDrive && v.relation) || '',
  }
}
