import type { Schemas } from '../api/client'

export type Found = { held: Schemas['CapacityResult'] } | { sustained: Schemas['Sustained'] }

/** foundFrom reads what the probe printed of the new drive; what is something else is refused here, so that nothing of it is sent. */
export function foundFrom(text: string): Found {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    value = null
  }
  if (typeof value === 'object' && value !== null) {
    const r = value as Partial<Schemas['CapacityResult']> & Partial<Schemas['Sustained']>
    if (Array.isArray(r.parts)) return { sustained: r as Schemas['Sustained'] }
    if (typeof r.blocks === 'number' && typeof r.missed === 'number' && typeof r.written_bytes === 'number') return { held: r as Schemas['CapacityResult'] }
  }
  throw new Error('Import what nowthen-probe capacity or sustain printed with --json.')
}
