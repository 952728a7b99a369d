import type { Probe, Schemas, View } from '../api/client'
import { driveName, driveOf, setupAs } from '../job/view'
import { partSize } from '../ui/format'

/** Told is everything that identifies a drive. Unknown members are left out. */
export type Told = {
  side: 'then' | 'now'
  /** code is on the drive's label. */
  code: string
  name: string
  model: string
  bytes: number
  /** mark is the beginning of the digest of its serial number. */
  mark: string
  port: string
  /** guessed: it is taken for it by its capacity alone. */
  guessed: boolean
  /** empty: a file system at most. */
  empty: boolean
  /** contents are its partitions; undefined: the probe has not seen it. */
  contents?: string[]
}

const ports: Record<string, string> = { sata: 'SATA', usb: 'USB', mmc: 'eMMC', pcie: 'PCIe' }

/** codeOf is what is on a drive's label: the job's number without its year, and the side. */
export const codeOf = (number: string, side: 'then' | 'now') => `${number.split('-').at(-1)} ${side === 'then' ? 'OLD' : 'NEW'}`

/** sized reports whether two capacities can be those of one drive. */
export const sized = (a = 0, b = 0) => a > 0 && b > 0 && Math.abs(a - b) < 0.08 * Math.max(a, b)

function contentsOf(facts: Schemas['Facts'], id: string): string[] {
  return facts.partitions
    .filter((p) => p.drive === id)
    .map((p) => {
      const v = facts.volumes.find((x) => x.drive === id && x.partition === p.number)
      return [p.name || `partition ${p.number}`, partSize(p.size_bytes ?? 0), v?.used_bytes ? `${partSize(v.used_bytes)} used` : ''].filter(Boolean).join(', ')
    })
}

/** emptyBelow is how much may be used on a drive that counts as empty, bytes: a file system's own. */
const emptyBelow = 2 ** 30

const isEmpty = (facts: Schemas['Facts'], id: string) =>
  facts.partitions.filter((p) => p.drive === id).every((p) => facts.volumes.some((v) => v.drive === id && v.partition === p.number && !v.system && (v.used_bytes ?? 0) < emptyBelow))

/** whichIsWhich sets the old and the new drive side by side, with what should make somebody stop before either is written to. */
export function whichIsWhich(view: View, probes: Probe[]): { drives: Told[]; warnings: string[] } {
  const seen = probes.flatMap((p) => p.facts.drives.map((d) => ({ d, facts: p.facts })))
  const oldDigest = driveOf(view, setupAs(view, 'then'))?.serial_digest
  const drives = (['then', 'now'] as const).flatMap((side): Told[] => {
    const drive = driveOf(view, setupAs(view, side))
    if (!drive) return []
    const known = seen.find(({ d }) => drive.serial_digest && d.serial_digest === drive.serial_digest)
    // A new drive that nobody has seen yet is the only other one of its size.
    const alike = seen.filter(({ d, facts }) => facts.volumes.some((v) => v.system && v.drive !== d.id) && d.serial_digest !== oldDigest && sized(d.capacity_bytes, drive.capacity_bytes))
    const guess = side === 'now' && !drive.serial_digest && alike.length === 1 ? alike[0] : undefined
    const at = known ?? guess
    return [
      {
        side,
        code: codeOf(view.job.job.number, side),
        name: driveName(drive),
        model: [drive.maker, drive.model].filter(Boolean).join(' '),
        bytes: drive.capacity_bytes ?? 0,
        mark: (drive.serial_digest ?? guess?.d.serial_digest ?? '').slice(0, 6),
        guessed: Boolean(guess),
        empty: at ? isEmpty(at.facts, at.d.id) : false,
        port: at?.d.link ? [ports[at.d.link.kind ?? ''] ?? at.d.link.kind, at.d.link.negotiated].filter(Boolean).join(' ') : '',
        ...(at && { contents: contentsOf(at.facts, at.d.id) }),
      },
    ]
  })
  const [then, now] = drives
  const warnings: string[] = []
  if (then && now) {
    const sameSize = then.bytes > 0 && Math.abs(then.bytes / now.bytes - 1) < 0.05
    if (then.model && then.model === now.model) warnings.push('Both are the same model. Go by the labels and serial fingerprints, not by the name.')
    else if (sameSize) warnings.push('Both are about the same size. Go by the labels and the models, not by the size.')
    if (now.contents?.length && !now.empty) warnings.push(`The new drive is not empty: ${now.contents.join('; ')}.`)
  }
  return { drives, warnings }
}

/** stillThere reports whether a probe that is there sees a drive, by its serial fingerprint. */
export const stillThere = (drive: { serial_digest?: string } | undefined, probes: Probe[]) =>
  Boolean(drive?.serial_digest) && probes.some((p) => !p.away && p.facts.drives.some((d) => d.serial_digest === drive!.serial_digest))
