import { z } from 'zod'
import type { Bare, Schemas, Test, View } from '../api/client'
import { numeral, numeralOrNone, readNumber } from '../ui/numbers'

const streams = z.object({ count: numeralOrNone, plays: numeralOrNone, mb_s: numeralOrNone, width: numeralOrNone, height: numeralOrNone, frames_s: numeralOrNone, bits: numeralOrNone })

const watched = z.string().trim().max(200, 'Enter at most 200 characters.')

/** byHandAlone reports whether a test is a wait that a person times, so that it has to be said when to press. */
export const byHandAlone = (t: Test) => t.kind === 'timed' && t.unit === 's' && t.what !== 'restart-watch' && t.what !== 'start-recorded'

/** testSchema is what is in the fields of a test; a test without a test file has no size. */
const testSchema = z.object({ runs: numeral, uses: numeralOrNone, mib: numeralOrNone, streams: streams.optional(), begin: watched.optional(), end: watched.optional(), follows: z.string().optional() })
type TestForm = z.infer<typeof testSchema>

/** planSchema is what is in the fields of a plan, by test and by question. */
export const planSchema = z.object({ tests: z.record(z.string(), testSchema), answers: z.record(z.string(), numeral) })
export type PlanForm = z.infer<typeof planSchema>

const MiB = 2 ** 20

const text = (n: number | undefined) => (n === undefined ? '' : String(n))

function testForm(t: Test): TestForm {
  const s = t.params?.streams
  return {
    runs: text(t.wanted_runs ?? 3),
    uses: text(t.per_week),
    mib: t.params ? text(t.params.span_bytes / MiB) : '',
    ...(byHandAlone(t) && { begin: t.begin ?? '', end: t.end ?? '', follows: t.follows ?? '' }),
    ...(s && { streams: { count: text(s.count), plays: text(s.plays), mb_s: text(s.mb_s), width: text(s.width), height: text(s.height), frames_s: text(s.frames_s), bits: text(s.bits) } }),
  }
}

/** planForm is what is in the fields as the plan is. */
export function planForm(view: Bare): PlanForm {
  return {
    tests: Object.fromEntries(view.job.tests.filter((t) => !t.retired).map((t) => [t.id, testForm(t)])),
    answers: Object.fromEntries((view.job.plan.questions ?? []).map((q) => [q.id, String(q.answer)])),
  }
}

/** changeOf is what of the plan the fields change: nothing is sent that stands as it was. */
export function changeOf(view: View, form: PlanForm): { tests: Record<string, Schemas['TestChange']>; answers: Record<string, number> } {
  const before = planForm(view)
  const tests: Record<string, Schemas['TestChange']> = {}
  for (const [id, now] of Object.entries(form.tests)) {
    const was = before.tests[id]
    if (!was) continue // it was removed meanwhile
    const c: Schemas['TestChange'] = {}
    if (now.runs !== was.runs) c.wanted_runs = Math.round(readNumber(now.runs))
    if (now.uses !== was.uses) c.per_week = readNumber(now.uses) || 0
    if (now.mib !== was.mib && now.mib.trim() !== '') c.span_bytes = Math.round(readNumber(now.mib)) * MiB
    if (now.begin !== was.begin) c.begin = now.begin?.trim()
    if (now.end !== was.end) c.end = now.end?.trim()
    if (now.follows !== was.follows) c.follows = now.follows
    if (now.streams && JSON.stringify(now.streams) !== JSON.stringify(was.streams)) c.streams = streamsOf(now.streams)
    if (Object.keys(c).length > 0) tests[id] = c
  }
  const answers = Object.fromEntries(Object.entries(form.answers).flatMap(([id, s]) => (s !== before.answers[id] ? [[id, readNumber(s)]] : [])))
  return { tests, answers }
}

/** streamsOf is what must be kept up with: the rate of one, or what it follows from. */
function streamsOf(s: NonNullable<TestForm['streams']>): Schemas['Streams'] {
  const n = (v: string) => readNumber(v) || undefined
  const one = n(s.mb_s) ? { mb_s: n(s.mb_s) } : { width: n(s.width), height: n(s.height), frames_s: n(s.frames_s), bits: n(s.bits) }
  const plays = Math.round(n(s.plays) ?? 0)
  return { count: Math.round(readNumber(s.count)) || 0, ...(plays > 0 && { plays }), ...one }
}

/** moved is a list with one item at another place. */
export function moved<T>(list: T[], from: number, to: number): T[] {
  const next = [...list]
  next.splice(to, 0, ...next.splice(from, 1))
  return next
}
