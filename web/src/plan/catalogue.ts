import type { Entry } from '../api/client'

/** found are the entries in which every word stands that is searched for. */
export function found(entries: Entry[], q: string, groups: Record<string, string>): Entry[] {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean)
  return entries.filter((e) => {
    const text = `${e.test.name} ${groups[e.group] ?? e.group} ${e.needs.join(' ')}`.toLowerCase()
    return words.every((w) => text.includes(w))
  })
}

/** takes says about how long one run takes, with a person and without. */
export function takes(e: Pick<Entry, 'hands' | 'wait' | 'test'>, minutes: (m: number) => string): string {
  const seconds = e.test.params?.max_seconds
  const parts = [e.hands > 0 && `${minutes(e.hands)} of your time`, e.wait > 0 && `${minutes(e.wait)} unattended`, !e.hands && !e.wait && seconds && `${minutes(seconds / 60)} unattended`].filter(Boolean)
  return parts.length > 0 ? `About ${parts.join(', ')} per run.` : ''
}
