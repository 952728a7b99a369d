import { z } from 'zod'
import type { Conditions, Schemas } from '../api/client'

export const busyKinds = ['recording', 'download', 'update', 'indexing', 'backup', 'scan', 'other'] as const
type BusyKind = (typeof busyKinds)[number]

const known = z.enum(['yes', 'no', 'unknown'])
type Known = z.infer<typeof known>

const figure = (v: string) => Number(v.replace(',', '.'))
const number = (from: number, to: number, unit: string) =>
  z
    .string()
    .trim()
    .refine((v) => v === '' || (figure(v) >= from && figure(v) <= to), `Between ${from} and ${to} ${unit}.`)

/** schema is what the form of the conditions holds: unknown is a choice of its own everywhere, never a default that is agreed to. */
export const schema = z.object({
  power: z.enum(['mains', 'battery', 'unknown']),
  powerMode: z.enum(['normal', 'saving', 'unknown']),
  encrypted: known,
  fill: number(0, 100, '%'),
  /** busyKnown: somebody looked; then nothing in the list means that nothing was running. */
  busyKnown: z.boolean(),
  busy: z.array(z.enum(busyKinds)),
  encrypting: known,
  attached: z.enum(['none', 'some', 'unknown']),
  devices: z.string(),
  firmware: z.string().trim(),
  quickStart: known,
  storageMode: z.string().trim(),
  off: z.string(),
  room: number(-20, 60, '°C'),
})
export type Form = z.infer<typeof schema>

const said = (b: boolean | null | undefined): Known => (b === true ? 'yes' : b === false ? 'no' : 'unknown')
const meant = (k: Known) => (k === 'unknown' ? undefined : k === 'yes')
const text = (v: number | null | undefined) => (v === null || v === undefined ? '' : String(v))
/** oneOf is a value that is known, or that it is not. */
const oneOf = <T extends string>(v: string | undefined, of: readonly T[]): T | 'unknown' => of.find((x) => x === v) ?? 'unknown'
const listed = (line: string) =>
  line
    .split(',')
    .map((s) => s.trim())
    .filter(Boolean)

/** formOf are conditions as the form shows them. */
export const formOf = (c: Conditions): Form => ({
  power: oneOf(c.power, ['mains', 'battery']),
  powerMode: oneOf(c.power_mode, ['normal', 'saving']),
  encrypted: said(c.encrypted),
  fill: text(c.fill_pct),
  busyKnown: c.busy !== undefined && c.busy !== null,
  busy: (c.busy ?? []) as BusyKind[],
  encrypting: said(c.encrypting),
  attached: c.attached ? (c.attached.length > 0 ? 'some' : 'none') : 'unknown',
  devices: c.attached?.join(', ') ?? '',
  firmware: c.firmware?.version ?? '',
  quickStart: said(c.firmware?.quick_start),
  storageMode: c.firmware?.storage_mode ?? '',
  off: c.firmware?.off?.join(', ') ?? '',
  room: text(c.room_temp_c),
})

/** conditionsOf are the conditions that a form says, over what was detected beside it. */
export function conditionsOf(f: Form, detected: Conditions): Schemas['ConditionsIn'] {
  const firmware = {
    ...(f.firmware && { version: f.firmware }),
    ...(f.quickStart !== 'unknown' && { quick_start: f.quickStart === 'yes' }),
    ...(f.storageMode && { storage_mode: f.storageMode }),
    ...(f.off.trim() && { off: listed(f.off) }),
  }
  return noNulls({
    ...detected,
    power: f.power === 'unknown' ? undefined : f.power,
    power_mode: f.powerMode === 'unknown' ? undefined : f.powerMode,
    encrypted: meant(f.encrypted),
    encrypting: meant(f.encrypting),
    fill_pct: f.fill === '' ? undefined : figure(f.fill),
    busy: f.busyKnown || f.busy.length > 0 ? f.busy : undefined,
    attached: f.attached === 'unknown' ? undefined : f.attached === 'none' ? [] : listed(f.devices).length > 0 ? listed(f.devices) : ['a device'],
    firmware: Object.keys(firmware).length > 0 ? firmware : undefined,
    room_temp_c: f.room === '' ? undefined : figure(f.room),
  })
}

/** noNulls leaves out what is not known: it is not sent. */
export function noNulls({ busy, power, power_mode, ...all }: Conditions): Schemas['ConditionsIn'] {
  // What happened, and what was measured of the battery, the bench keeps itself.
  const rest = { ...all }
  for (const own of ['events', 'battery_from_pct', 'battery_to_pct', 'pass'] as const) delete rest[own]
  return {
    ...(Object.fromEntries(Object.entries(rest).filter(([, v]) => v !== null && v !== undefined)) as typeof rest),
    ...(busy && { busy: busy as NonNullable<Schemas['ConditionsIn']['busy']> }),
    ...(power && { power }),
    ...(power_mode && { power_mode }),
  }
}
