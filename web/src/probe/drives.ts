import type { Probe, Schemas } from '../api/client'
import { capacity, partSize } from '../ui/format'
import { driveKinds } from '../job/view'
import { healthWords, whyUnknown } from './health'

/** DriveOffer is a drive of a joined computer as it is offered to be picked. */
export type DriveOffer = {
  /** names it among all drives of all computers */
  key: string
  /** undefined: a volume of which the computer doesn't say on which drive it lies */
  drive?: Schemas['SeenDrive']
  name: string
  /** size, health and port, as far as they are known */
  says: string
  /** where a program can write on it; the one with the most free space first. Empty: nowhere. */
  volumes: { key: string; words: string }[]
}

/** drivesOf are the drives of a probe's computer, and after them the volumes of unknown ones. key names a volume by its mount point. */
export function drivesOf(p: Probe, key = (mount: string) => mount): DriveOffer[] {
  const named = (v: Schemas['Facts']['volumes'][number]) => ({ key: key(v.mount), words: [v.mount, v.size_bytes ? `${partSize(free(v))} free` : ''].filter(Boolean).join(', ') })
  const adrift = p.facts.volumes
    .filter((v) => !p.facts.drives.some((d) => d.id === v.drive))
    .map((v) => ({ key: `${p.id} ${v.mount}`, name: v.mount, says: 'the computer doesn’t say on which drive it lies', volumes: [named(v)] }))
  const drives = p.facts.drives.map((drive) => {
    const why = whyUnknown(p, drive.id)
    const health = drive.health ? healthWords(drive.health) : ''
    return {
      key: `${p.id} ${drive.id}`,
      drive,
      name: [drive.maker, drive.model].filter(Boolean).join(' ') || (drive.kind ? driveKinds[drive.kind] : drive.id),
      says: [drive.capacity_bytes ? capacity(drive.capacity_bytes) : 'size unknown', health || `health unknown${why ? `: ${why}` : ''}`, linkOf(drive)].filter(Boolean).join(', '),
      volumes: p.facts.volumes
        .filter((v) => v.drive === drive.id)
        .sort((a, b) => free(b) - free(a))
        .map(named),
    }
  })
  return [...drives, ...adrift]
}

const free = (v: Schemas['Facts']['volumes'][number]) => (v.size_bytes ?? 0) - (v.used_bytes ?? 0)

/** linkOf is the port of a drive with the rate that was negotiated, '' where that is not known. */
export const linkOf = (d: Schemas['SeenDrive']) =>
  d.link?.negotiated ? `${{ sata: 'SATA', pcie: 'PCIe', usb: 'USB', mmc: 'MMC' }[d.link.kind!] ?? ''} ${d.link.negotiated}`.trim() : ''
