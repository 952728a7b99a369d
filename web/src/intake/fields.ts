import { z } from 'zod'
import type { Drive, Schemas } from '../api/client'
import { size } from '../ui/size'

/** What is typed in at intake, as text, and what becomes of it. Numbers may have a decimal comma. */

const amount = (what: string, most: number, unit: string) =>
  z
    .string()
    .trim()
    .transform((s) => s.replace(',', '.'))
    .refine((s) => s === '' || /^\d+(\.\d+)?$/.test(s), `${what} is a number.`)
    .refine((s) => s === '' || (Number(s) > 0 && Number(s) <= most), `${what} must be above 0 and at most ${most} ${unit}. Check the unit.`)

const text = z.string().trim().max(500, 'Enter at most 500 characters.')

export const driveKindIds = ['hdd', 'sata-ssd', 'nvme', 'emmc', 'hybrid', 'cached', 'usb-flash'] as const

export const driveSchema = z.object({
  kind: z.enum(driveKindIds, 'Choose the kind of drive.'),
  maker: text,
  model: text,
  capacity: z
    .string()
    .trim()
    .refine((s) => s === '' || !/^[0-9]+([.,][0-9]+)?$/.test(s), { error: (i) => `${String(i.input)} GB or ${String(i.input)} TB? Add the unit.`, abort: true })
    .refine((s) => s === '' || size(s) !== undefined, { error: 'Enter the capacity with its unit, such as 480 GB.', abort: true })
    .refine((s) => s === '' || (size(s)! >= 1e9 && size(s)! <= 1e15), 'A drive has between 1 GB and 1000 TB. Check the unit.'),
  interface: text,
  read: amount('The rated reading', 100_000, 'MB/s'),
  write: amount('The rated writing', 100_000, 'MB/s'),
  price: amount('The price', 1_000_000, ''),
  currency: z.string().trim().toUpperCase().regex(/^[A-Z]{3}$/, 'Three letters, such as EUR.'),
})

export type DriveInput = z.input<typeof driveSchema>

export const computerSchema = z.object({ maker: text, model: text, processor: text, memory: amount('Memory', 65536, 'GiB'), system: text })
export type ComputerInput = z.input<typeof computerSchema>

const customerSchema = z.object({ name: text, contact: text })

type LooseDrive = Omit<DriveInput, 'kind'> & { kind?: DriveInput['kind'] }

/** given reports whether anything was said of a drive. */
const given = (d: LooseDrive) => Boolean(d.kind) || Object.entries(noDrive).some(([key, none]) => d[key as keyof LooseDrive] !== none)

/** The new drive may come later: nothing is asked of one of which nothing was said. A check-up has none. */
export const intakeSchema = z
  .object({
    kind: z.enum(['upgrade', 'comparison', 'check-up']).default('upgrade'),
    customer: customerSchema,
    reason: text,
    computer: computerSchema,
    oldDrive: z.custom<LooseDrive>(() => true).pipe(driveSchema),
    newDrive: z.custom<LooseDrive>(() => true),
    relation: z.enum(['replaces', 'added', 'cache', 'tried', 'returns']).optional(),
  })
  .refine((v) => v.customer.name || v.computer.maker || v.computer.model, {
    when: () => true, // said together with what else is missing
    path: ['customer', 'name'],
    message: 'Enter the customer’s name or the computer.',
  })
  .transform((v, ctx) => {
    if (v.kind === 'check-up' || !given(v.newDrive)) return { ...v, newDrive: undefined }
    const read = driveSchema.safeParse(v.newDrive)
    if (read.success) return { ...v, newDrive: read.data }
    for (const issue of read.error.issues) ctx.addIssue({ code: 'custom', message: issue.message, path: ['newDrive', ...issue.path] })
    return z.NEVER
  })

export type IntakeInput = z.input<typeof intakeSchema>
export type IntakeOutput = z.output<typeof intakeSchema>

/** most is the largest capacity that drives of a kind usually have, bytes. */
const most: Record<(typeof driveKindIds)[number], number> = { hdd: 30e12, 'sata-ssd': 8e12, nvme: 16e12, emmc: 512e9, hybrid: 4e12, cached: 30e12, 'usb-flash': 2e12 }

/** unusual asks about a capacity that drives of that kind hardly have; '' where there is nothing to ask. */
export function unusual(kind: string | undefined, capacity: string): string {
  const bytes = size(capacity)
  const limit = most[kind as keyof typeof most]
  if (!bytes || !limit) return ''
  if (bytes > limit) return 'That is more than drives of this kind usually hold. Is the unit right?'
  return bytes < 8e9 ? 'That is less than drives of this kind hold. Is the unit right?' : ''
}

export const noDrive: Omit<DriveInput, 'kind'> = {
  maker: '',
  model: '',
  capacity: '',
  interface: '',
  read: '',
  write: '',
  price: '',
  currency: 'EUR',
}

/** toDrive turns checked input into a drive; what is in before is kept where the form has no field for it. */
export function toDrive(v: z.output<typeof driveSchema>, before?: Drive): Schemas['DriveIn'] {
  const number = (s: string) => (s === '' ? undefined : Number(s))
  const { max_temp_c, endurance_tb, scattered_reads_s } = before?.rated ?? {}
  const rated = known({ read_mb_s: number(v.read), write_mb_s: number(v.write), max_temp_c, endurance_tb, scattered_reads_s })
  const same = before?.capacity_bytes && fromDrive(before).capacity === v.capacity
  return known({
    kind: v.kind,
    maker: v.maker,
    model: v.model,
    interface: v.interface,
    rpm: before?.rpm,
    capacity_bytes: same ? before.capacity_bytes : size(v.capacity), // one that reads as it did keeps its exact count
    rated: Object.keys(rated).length > 0 ? rated : undefined,
    price: v.price === '' ? undefined : { amount: Number(v.price).toFixed(2), currency: v.currency },
  })
}

/** known leaves out what is not. */
const known = <T extends object>(o: T) => Object.fromEntries(Object.entries(o).filter(([, v]) => v !== undefined)) as T

/** fromDrive turns a drive into what is in the form. */
export function fromDrive(d: Drive | undefined): Omit<DriveInput, 'kind'> & { kind?: Drive['kind'] } {
  if (!d) return noDrive
  const gb = (d.capacity_bytes ?? 0) / 1e9
  const shown = gb >= 1000 ? `${Number((gb / 1000).toPrecision(3))} TB` : gb > 0 ? `${Number(gb.toPrecision(3))} GB` : ''
  const str = (n: number | undefined) => (n ? String(n) : '')
  return {
    kind: d.kind,
    maker: d.maker ?? '',
    model: d.model ?? '',
    capacity: shown,
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
    kind: v.kind,
    customer: v.customer,
    reason: v.reason,
    computer: toComputer(v.computer),
    old_drive: toDrive(v.oldDrive),
    new_drive: v.newDrive ? toDrive(v.newDrive) : null,
    relation: (v.kind === 'upgrade' && v.newDrive && v.relation) || '',
  }
}
