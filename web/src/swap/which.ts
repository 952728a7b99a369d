import type { Probe, Schemas, View } from '../api/client'
import { driveName, driveOf, setupAs } from '../job/view'
import { partSize } from '../ui/format'

/** Told is all by which a drive is told from another. What is not known is left out. */
export type Told = {
  side: 'then' | 'now'
  /** code stands on the drive's label. */
  code: string
  name: string
  model: string
  bytes: number
  /** mark is the beginning of the digest of its serial number. */
  mark: string
  port: string
  /** contents are its partitions; undefined: the probe has not seen it. */
  contents?: string[]
}

const ports: Record<string, string> = { sata: 'SATA', usb: 'USB', mmc: 'eMMC', pcie: 'PCIe' }

/** codeOf is what stands on a drive's label: the job's number without its year, and the side. */
export const codeOf = (number: string, side: 'then' | 'now') => `${number.split('-').at(-1)} ${side === 'then' ? 'OLD' : 'NEW'}`

function contentsOf(facts: Schemas['Facts'], id: string): string[] {
  return facts.partitions
    .filter((p) => p.drive === id)
    .map((p) => {
      const v = facts.volumes.find((x) => x.drive === id && x.partition === p.number)
      return [p.name || `partition ${p.number}`, partSize(p.size_bytes ?? 0), v?.used_bytes ? `${partSize(v.used_bytes)} used` : ''].filter(Boolean).join(', ')
    })
}

/** whichIsWhich sets the old and the new drive side by side, with what should make somebody stop before either is written to. */
export function whichIsWhich(view: View, probes: Probe[]): { drives: Told[]; warnings: string[] } {
  const seen = probes.flatMap((p) => p.facts.drives.map((d) => ({ d, facts: p.facts })))
  const drives = (['then', 'now'] as const).flatMap((side): Told[] => {
    const drive = driveOf(view, setupAs(view, side))
    if (!drive) return []
    const at = seen.find(({ d }) => drive.serial_digest && d.serial_digest === drive.serial_digest)
    return [
      {
        side,
        code: codeOf(view.job.job.number, side),
        name: driveName(drive),
        model: [drive.maker, drive.model].filter(Boolean).join(' '),
        bytes: drive.capacity_bytes ?? 0,
        mark: (drive.serial_digest ?? '').slice(0, 6),
        port: at?.d.link ? [ports[at.d.link.kind ?? ''] ?? at.d.link.kind, at.d.link.negotiated].filter(Boolean).join(' ') : '',
        ...(at && { contents: contentsOf(at.facts, at.d.id) }),
      },
    ]
  })
  const [then, now] = drives
  const warnings: string[] = []
  if (then && now) {
    const sameSize = then.bytes > 0 && Math.abs(then.bytes / now.bytes - 1) < 0.05
    if (then.model && then.model === now.model) warnings.push('Both are the same model. Go by the labels and the marks of their serial numbers, not by the name.')
    else if (sameSize) warnings.push('Both are about the same size. Go by the labels and the models, not by the size.')
    if (now.contents?.length) warnings.push(`The new drive is not empty: ${now.contents.join('; ')}.`)
  }
  return { drives, warnings }
}
