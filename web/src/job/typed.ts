/** Typed is a figure as it was typed in: a number, and the unit if one was said. */
export type Typed = { value: number; unit: string }

/** readTyped reads "92,4", "1.5 min" or "830 Mbit/s"; undefined where that is no number. */
export function readTyped(text: string, unit: string): Typed | undefined {
  const m = /^\s*(-?[\d][\d\s.,'\u00a0\u202f]*)\s*(\S.*)?$/u.exec(text)
  if (!m) return undefined
  let digits = m[1]!.replace(/[\s'\u00a0\u202f]/gu, '')
  const comma = digits.lastIndexOf(',')
  const point = digits.lastIndexOf('.')
  // Where both stand, the last one is the decimal sign.
  if (comma >= 0 && point >= 0) digits = digits.replaceAll(comma > point ? '.' : ',', '')
  if ((digits.match(/[.,]/g)?.length ?? 0) > 1) return undefined
  const value = Number(digits.replace(',', '.'))
  return Number.isFinite(value) ? { value, unit: m[2]?.trim() || unit } : undefined
}
