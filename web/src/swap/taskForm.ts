import { z } from 'zod'
import type { Schemas } from '../api/client'
import { numeralOrNone, readNumber } from '../ui/numbers'

/** taskSchema is what is in the form of a task. */
export const taskSchema = z
  .object({
    what: z.enum(['clone', 'install', 'restore', 'copy', 'other']),
    words: z.string().trim().max(500, 'Enter at most 500 characters.'),
    from: z.enum(['', 'old-drive', 'backup', 'installer', 'network', 'other']),
    gb: numeralOrNone,
  })
  .refine((f) => f.what !== 'other' || f.words !== '', { path: ['words'], error: 'Describe the task.' })
export type TaskForm = z.infer<typeof taskSchema>

/** toTask is the task that a form says; kind begins its clock. */
export const toTask = (f: TaskForm, kind: '' | 'hands-on' | 'waiting'): Schemas['Tasking'] => ({
  what: f.what,
  words: f.words,
  from: f.from,
  bytes: f.gb.trim() === '' ? 0 : Math.round(readNumber(f.gb) * 1e9),
  kind,
})
