import { z } from 'zod'

/** readNumber reads a number with a decimal point or comma; NaN where there is none. */
export const readNumber = (s: string) => (s.trim() === '' ? NaN : Number(s.trim().replace(',', '.')))

const aNumber = 'A number, such as 3 or 2.5.'

/** numeral is the text of a number of nought or more. */
export const numeral = z.string().refine((s) => readNumber(s) >= 0 && Number.isFinite(readNumber(s)), aNumber)

/** numeralOrNone is one that may be left out. */
export const numeralOrNone = z.string().refine((s) => s.trim() === '' || (readNumber(s) >= 0 && Number.isFinite(readNumber(s))), aNumber)
