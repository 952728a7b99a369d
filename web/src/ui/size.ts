const units: Record<string, number> = {
  b: 1, bytes: 1, kb: 1e3, mb: 1e6, gb: 1e9, tb: 1e12, kib: 2 ** 10, mib: 2 ** 20, gib: 2 ** 30, tib: 2 ** 40,
}

/** size reads an amount of data as people write it, "4.2 GB", "512 MiB", in bytes; undefined where it is none, or has no unit. */
export function size(text: string): number | undefined {
  const m = /^([0-9]+(?:[.,][0-9]+)?)\s*([a-z]+)$/i.exec(text.trim())
  const unit = m && units[m[2]!.toLowerCase()]
  if (!m || !unit) return undefined
  const n = Math.round(Number(m[1]!.replace(',', '.')) * unit)
  return Number.isSafeInteger(n) ? n : undefined
}
