import type { Schemas } from '../api/client'

/** heldFrom reads what the probe printed; what is something else is refused here, so that nothing of it is sent. */
export function heldFrom(text: string): Schemas['CapacityResult'] {
  const refuse = () => new Error('Import what nowthen-probe capacity printed with --json.')
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    throw refuse()
  }
  const r = value as Partial<Schemas['CapacityResult']> | null
  if (typeof r !== 'object' || r === null || typeof r.blocks !== 'number' || typeof r.missed !== 'number' || typeof r.written_bytes !== 'number') throw refuse()
  return r as Schemas['CapacityResult']
}
