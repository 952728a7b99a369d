/** Figures as people read them. The wording of comparisons comes from the bench; here are only single figures. */

/**
 * fixed writes a number with that many decimals. Halves go away from zero in the decimal figure (1.045 is 1.05), as on a pocket calculator
 * and as the bench rounds.
 */
function fixed(value: number, decimals: number): string {
  const [digits, exponent = '0'] = String(Math.abs(value)).split('e')
  const rounded = Number(`${Math.round(Number(`${digits}e${Number(exponent) + decimals}`))}e${-decimals}`)
  const places = Math.max(decimals, 0)
  const text = rounded >= 1000 ? rounded.toLocaleString('en', { minimumFractionDigits: places, maximumFractionDigits: places }) : rounded.toFixed(places)
  return value < 0 && Number(text) !== 0 ? `-${text}` : text
}

/** figure writes a value with three significant digits and its unit, as the ledger does. */
export const figure = (value: number, unit: string) => `${fixed(value, decimals(value))} ${unit}`

/** decimals is how many decimals show three significant digits, below zero for large numbers. */
function decimals(value: number): number {
  const a = Math.abs(value)
  if (a === 0) return 0
  if (a < 1) return Math.min(4, 2 - Math.floor(Math.log10(a)))
  if (a < 9.995) return 2
  if (a < 99.95) return 1
  return a < 999.5 ? 0 : 2 - Math.floor(Math.log10(a * 1.0005)) // 9,995 is 10,000
}

/**
 * giveOrTake writes an uncertainty: as fine as the figure it is beside, at least one digit of it; two significant digits
 * where it is alone.
 */
export function giveOrTake(u: number, unit: string, beside?: number): string {
  const first = u > 0 ? -Math.floor(Math.log10(u)) : 0
  const digits = beside === undefined ? first + 1 : Math.max(first, decimals(beside))
  return `± ${fixed(u, Math.max(0, digits))} ${unit}`
}

/** clock writes a running time: 7.3, 41.2, 3:05.1. */
export function clock(seconds: number): string {
  const s = Math.max(0, seconds)
  if (s < 60) return s.toFixed(1)
  const tenths = Math.floor(s * 10)
  const rest = ((tenths % 600) / 10).toFixed(1).padStart(4, '0')
  return `${Math.floor(tenths / 600)}:${rest}`
}

/** lasted writes a time as a clock does, with its unit where it is in seconds alone: 7.3 s, 1:32.9. */
export const lasted = (seconds: number) => (Math.max(0, seconds) < 60 ? `${clock(seconds)} s` : clock(seconds))

/** minutes writes about how long something takes. */
export function minutes(m: number): string {
  if (m <= 0) return ''
  if (m < 1) return `${Math.max(5, Math.round((m * 60) / 5) * 5)} s`
  return `${Math.round(m)} min`
}

/** bytes writes a size of blocks and files in powers of two. */
export function bytes(n: number): string {
  const units = ['B', 'KiB', 'MiB', 'GiB', 'TiB']
  let i = 0
  while (n >= 1024 && i < units.length - 1) {
    n /= 1024
    i++
  }
  return `${n >= 100 || Number.isInteger(n) ? n.toFixed(0) : n.toFixed(1)} ${units[i]}`
}

/** capacity writes a drive's size in powers of ten, as on its label. */
export function capacity(n: number): string {
  const gb = n / 1e9
  return gb >= 1000 ? `${Number((gb / 1000).toPrecision(3))} TB` : `${Math.round(gb)} GB`
}

/** partSize writes a partition's, which can be much smaller than a drive. */
export const partSize = (n: number) => (n >= 1e9 ? capacity(n) : `${Math.round(n / 1e6)} MB`)

/** since writes how long ago something was. */
export function since(at: string, now: number): string {
  const m = Math.max(0, (now - Date.parse(at)) / 60000)
  if (m < 1) return 'just now'
  if (m < 60) return `${Math.floor(m)} min ago`
  if (m < 48 * 60) return `${Math.floor(m / 60)} h ago`
  return `${Math.floor(m / 1440)} days ago`
}

/** day writes a date. */
export const day = (at: string) => new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })

/** isoDay is the day of a moment where the page is checked, as date fields take it: 2026-11-25. */
export function isoDay(at: string): string {
  const d = new Date(at)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}`
}

/** time writes a date and a time of day. */
export const time = (at: string) =>
  new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
