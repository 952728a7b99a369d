import type { Schemas, View } from '../api/client'

type Difference = Schemas['Difference']
type Carried = NonNullable<View['job']['job']['carried']>

/** comparisonFrom reads what the probe printed; what is something else is refused here, so that nothing of it is sent. */
export function comparisonFrom(text: string): Difference {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    throw new Error('That file is not JSON. Import what nowthen-probe manifest --against printed with --json.')
  }
  const d = value as Partial<Difference> | null
  if (typeof d !== 'object' || d === null || typeof d.files !== 'number' || typeof d.unchanged !== 'number' || typeof d.counts !== 'object') {
    throw new Error('That file isn’t a manifest comparison. Import what nowthen-probe manifest --against printed with --json.')
  }
  return d as Difference
}

const whole = (n: number) => n.toLocaleString('en')

/** carriedInWords says for the technician what came across. */
export function carriedInWords(c: Carried): string {
  const parts = [c.missing > 0 && `${whole(c.missing)} missing`, c.changed > 0 && `${whole(c.changed)} changed`, c.unreadable_now > 0 && `${whole(c.unreadable_now)} unreadable now`].filter(Boolean)
  const before = c.unreadable_before > 0 ? ` ${whole(c.unreadable_before)} could not be read on the old drive already.` : ''
  return `${whole(c.files)} files: ${parts.length > 0 ? `${whole(c.unchanged)} unchanged, ${parts.join(', ')}.` : 'all came across unchanged.'}${before}`
}

/** lists are those paths that a technician looks at, what is worst first. */
export const lists = (d: Pick<Difference, 'missing' | 'changed' | 'new' | 'unreadable_before' | 'unreadable_now' | 'counts'>) =>
  [
    { title: 'Missing', paths: d.missing ?? [], count: d.counts.missing ?? 0 },
    { title: 'Changed', paths: d.changed ?? [], count: d.counts.changed ?? 0 },
    { title: 'Unreadable now', paths: d.unreadable_now ?? [], count: d.counts.unreadable_now ?? 0 },
    { title: 'Unreadable on the old drive already', paths: d.unreadable_before ?? [], count: d.counts.unreadable_before ?? 0 },
    { title: 'New', paths: d.new ?? [], count: d.counts.new ?? 0 },
  ].filter((l) => l.count > 0)

/** folderAgain is the folder to compare with a list of one: '' where that was the users’ own, which the probe finds on the new drive. */
export const folderAgain = (listed: string) => (/(^|[\\/])(Users|home)$|^([A-Z]:)?[\\/]?$/.test(listed) ? '' : listed)
