import { z } from 'zod'
import type { Probe, Schemas, View } from '../api/client'
import { driveOf, setupAs } from '../job/view'
import { figure, partSize } from '../ui/format'
import { numeralOrNone, readNumber } from '../ui/numbers'
import { sized } from './which'

/** lookSchema is what is asked before the probe writes on the new drive. */
export const lookSchema = z.object({
  mount: z.string().min(1, 'Choose a volume on the new drive.'),
  label: z.string().trim(),
  what: z.enum(['sample', 'whole', 'sustain']),
  minutes: z.enum(['1', '5', '10', '30']),
  load: z.boolean(),
  graphics: z.boolean(),
  heatSink: z.enum(['', 'yes', 'no']),
  room: numeralOrNone,
})
export type LookForm = z.infer<typeof lookSchema>

/** requestOf is what the bench is asked for. What nobody said is left out. */
export function requestOf(f: LookForm): Schemas['CheckRequest'] {
  if (f.what !== 'sustain') return { kind: 'capacity', mount: f.mount, label: f.label, whole: f.what === 'whole' }
  return {
    kind: 'sustain',
    mount: f.mount,
    label: f.label,
    seconds: Number(f.minutes) * 60,
    load: f.load,
    graphics: f.load ? f.graphics : null,
    heat_sink: f.heatSink === '' ? null : f.heatSink === 'yes',
    room_c: f.room.trim() === '' ? null : readNumber(f.room),
  }
}

export type Place = { mount: string; words: string }

/** placesOn are the volumes that a probe could write on, each with its drive; those of the old drive are left out. */
export function placesOn(view: View, probe: Probe): Place[] {
  const old = driveOf(view, setupAs(view, 'then'))?.serial_digest
  return probe.facts.volumes.flatMap((v) => {
    const d = probe.facts.drives.find((x) => x.id === v.drive)
    if (!d || (old && d.serial_digest === old)) return []
    const name = [d.maker, d.model].filter(Boolean).join(' ') || d.kind
    return [{ mount: v.mount, words: [`${v.mount}: ${name}`, d.capacity_bytes ? partSize(d.capacity_bytes) : '', v.used_bytes !== undefined ? `${partSize(v.used_bytes)} used` : ''].filter(Boolean).join(', ') }]
  })
}

/** likely is the volume that lies on the new drive as far as that is known: by its serial number, else by its capacity; "" where it is not plain. */
export function likely(view: View, probe: Probe): string {
  const fresh = driveOf(view, setupAs(view, 'now'))
  const places = placesOn(view, probe)
  const of = (mount: string) => probe.facts.drives.find((d) => d.id === probe.facts.volumes.find((v) => v.mount === mount)?.drive)
  const known = places.filter((p) => fresh?.serial_digest && of(p.mount)?.serial_digest === fresh.serial_digest)
  if (known.length > 0) return known[0]!.mount
  const wanted = fresh?.capacity_bytes
  const alike = places.filter((p) => sized(of(p.mount)?.capacity_bytes, wanted))
  return alike.length === 1 ? alike[0]!.mount : ''
}

/** underWay says how far a look at the drive is. */
export function underWay(c: Schemas['Checking']): string {
  const doing = c.kind === 'capacity' ? (c.done < 0.5 ? 'Writing marked blocks' : 'Reading them back') : c.loaded ? 'Writing, processor loaded' : 'Writing'
  return [doing, c.mb_s > 0 ? figure(c.mb_s, 'MB/s') : '', c.temp_c !== null ? `${Math.round(c.temp_c)} °C` : '', `${Math.round(c.elapsed_s)} s`].filter(Boolean).join(', ')
}
