import { z } from 'zod'
import type { Probe, Schemas, View } from '../api/client'
import { driveOf, nowOf, setupAs } from '../job/view'
import { figure, partSize } from '../ui/format'
import { numeralOrNone, readNumber } from '../ui/numbers'
import { sized } from './which'

/** checkSchema is what is asked before the probe writes on the new drive. */
export const checkSchema = z.object({
  place: z.string('Choose a volume on the new drive.').min(1, 'Choose a volume on the new drive.'),
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

export type Place = { key: string; words: string; drive: Schemas['SeenDrive'] }

/** placesOn are the volumes that probes could write on, each with its drive; those of the old drive are left out. */
export function placesOn(view: View, probes: Probe[]): Place[] {
  const old = driveOf(view, setupAs(view, 'then'))?.serial_digest
  return probes.flatMap((probe) =>
    probe.facts.volumes.flatMap((v) => {
      const drive = probe.facts.drives.find((x) => x.id === v.drive)
      if (!drive || (old && drive.serial_digest === old)) return []
      const name = [drive.maker, drive.model].filter(Boolean).join(' ') || drive.kind
      const words = [`${v.mount}: ${name}`, drive.capacity_bytes ? partSize(drive.capacity_bytes) : '', v.used_bytes !== undefined ? `${partSize(v.used_bytes)} used` : '']
      return [{ key: keyOf(probe.id, v.mount), words: [...words, probes.length > 1 ? `on ${probe.name}` : ''].filter(Boolean).join(', '), drive }]
    }),
  )
}

/** likely is the volume that lies on the new drive as far as that is known: by its serial number, else by its capacity; "" where it is not plain. */
export function likely(view: View, places: Place[]): string {
  const fresh = driveOf(view, nowOf(view))
  const known = places.find((p) => fresh?.serial_digest && p.drive.serial_digest === fresh.serial_digest)
  const alike = places.filter((p) => sized(p.drive.capacity_bytes, fresh?.capacity_bytes))
  return known?.key ?? (alike.length === 1 ? alike[0]!.key : '')
}

/** underWay says how far a check of the drive is. */
export function underWay(c: Schemas['Checking']): string {
  const doing = c.kind === 'capacity' ? (c.done < 0.5 ? 'Writing marked blocks' : 'Reading them back') : c.loaded ? 'Writing, processor loaded' : 'Writing'
  return [doing, c.mb_s > 0 ? figure(c.mb_s, 'MB/s') : '', c.temp_c !== null ? `${Math.round(c.temp_c)} °C` : '', `${Math.round(c.elapsed_s)} s`].filter(Boolean).join(', ')
}
