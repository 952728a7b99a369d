import { z } from 'zod'
import type { Probe, Schemas, View } from '../api/client'
import { driveOf, nowOf, setupAs } from '../job/view'
import { drivesOf, type DriveOffer } from '../probe/drives'
import { figure, minutes } from '../ui/format'
import { numeralOrNone, readNumber } from '../ui/numbers'
import { sized } from './which'

/** checkSchema is what is asked before the probe writes on the new drive. */
export const checkSchema = z.object({
  place: z.string('Choose the new drive.').min(1, 'Choose the new drive.'),
  label: z.string().trim(),
  what: z.enum(['sample', 'whole', 'sustain']),
  minutes: z.enum(['1', '5', '10', '30']),
  load: z.boolean(),
  graphics: z.boolean(),
  heatSink: z.enum(['', 'yes', 'no']),
  room: numeralOrNone,
})
export type CheckForm = z.infer<typeof checkSchema>

/** keyOf names a volume of a probe's computer, probeAndMount takes the name apart: ids hold no blank. */
const keyOf = (probe: string, mount: string) => `${probe} ${mount}`
const probeAndMount = (key: string) => ({ probe: key.slice(0, key.indexOf(' ')), mount: key.slice(key.indexOf(' ') + 1) })

/** requestOf is what the bench is asked for. What nobody said is left out. */
export function requestOf(f: CheckForm): Schemas['CheckRequest'] & { probe: string } {
  const at = probeAndMount(f.place)
  if (f.what !== 'sustain') return { ...at, kind: 'capacity', label: f.label, whole: f.what === 'whole' }
  return {
    ...at,
    kind: 'sustain',
    label: f.label,
    seconds: Number(f.minutes) * 60,
    load: f.load,
    graphics: f.load && f.graphics ? true : null,
    heat_sink: f.heatSink === '' ? null : f.heatSink === 'yes',
    room_c: f.room.trim() === '' ? null : readNumber(f.room),
  }
}

/** writableOn are the drives that probes could write on; the old one is left out. */
export function writableOn(view: View, probes: Probe[]): DriveOffer[] {
  const old = driveOf(view, setupAs(view, 'then'))?.serial_digest
  return probes.flatMap((probe) =>
    drivesOf(probe, (mount) => keyOf(probe.id, mount))
      .filter((d) => d.drive && (!old || d.drive.serial_digest !== old)) // nothing is written where the drive is not known
      .map((d) => (probes.length > 1 ? { ...d, says: `${d.says}, on ${probe.name}` } : d)),
  )
}

/** likely is a volume of the new drive as far as that is known: by its serial number, else by its capacity; "" where it is not plain. */
export function likely(view: View, drives: DriveOffer[]): string {
  const fresh = driveOf(view, nowOf(view))
  const there = drives.filter((d) => d.volumes.length > 0)
  const known = there.find((d) => fresh?.serial_digest && d.drive?.serial_digest === fresh.serial_digest)
  const alike = there.filter((d) => sized(d.drive?.capacity_bytes, fresh?.capacity_bytes))
  return (known ?? (alike.length === 1 ? alike[0] : undefined))?.volumes[0]?.key ?? ''
}

/** underWay says how far a check of the drive, or a reading of files, is. */
export function underWay(c: Schemas['Checking']): string {
  if (c.kind === 'list' || c.kind === 'compare') return `Reading the files, ${Math.floor(c.done * 100)} %, ${minutes(c.elapsed_s / 60)}`.replace(/, $/, '')
  const doing = c.kind === 'capacity' ? (c.done < 0.5 ? 'Writing marked blocks' : 'Reading them back') : c.loaded ? 'Writing, processor loaded' : 'Writing'
  return [doing, c.mb_s > 0 ? figure(c.mb_s, 'MB/s') : '', c.temp_c !== null ? `${Math.round(c.temp_c)} °C` : '', `${Math.round(c.elapsed_s)} s`].filter(Boolean).join(', ')
}
