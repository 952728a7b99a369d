import { describe, expect, it } from 'vitest'
import { taskSchema, toTask } from './taskForm'
import { howOf, nameOf, now, rateWords, spent, tookWords, usualWords, type Sum, type Task } from './tasks'

const sum = (of: Partial<Sum>): Sum => ({ task: 'a', hands_on_s: 0, waiting_s: 0, broke: 0, rate_mb_s: null, could_mb_s: null, slower: '', usual_min: null, of: 0, left_min: null, at_least_min: null, ...of })
const task = (of: Partial<Task>): Task => ({ id: 'a', what: 'clone', stretches: [], ...of })

describe('work by the clock', () => {
  it('is called by what it does, or by its own words', () => {
    expect(nameOf(task({ words: 'by files' }))).toBe('Cloning')
    expect(nameOf(task({ what: 'other', words: 'glue softened' }))).toBe('glue softened')
    expect(howOf(task({ words: 'by files', from: 'old-drive', bytes: 390e9 }))).toBe('by files, from the old drive, 390 GB')
    expect(howOf(task({ what: 'other', words: 'glue softened' }))).toBe('')
  })
  it('is written in minutes and hours', () => {
    expect([0, 59, 60, 3599, 3600, 7500].map(spent)).toEqual(['under a minute', 'under a minute', '1 min', '59 min', '1 h 0 min', '2 h 5 min'])
    expect(tookWords({ hands_on_s: 0, waiting_s: 0 })).toBe('no time yet')
    expect(tookWords({ hands_on_s: 300, waiting_s: 7200 })).toBe('5 min by hand, 2 h 0 min waiting')
  })
  it('goes on while it runs, and only what runs', () => {
    const at = '2026-11-03T09:00:00Z'
    const told = sum({ hands_on_s: 60, waiting_s: 120 })
    expect(now(told, task({ stretches: [{ from: at, kind: 'waiting' }] }), 30_000)).toMatchObject({ hands_on_s: 60, waiting_s: 150 })
    expect(now(told, task({ stretches: [{ from: at, kind: 'hands-on' }] }), 30_000)).toMatchObject({ hands_on_s: 90, waiting_s: 120 })
    expect(now(told, task({ stretches: [{ from: at, to: at, kind: 'waiting' }] }), 30_000)).toEqual(told)
    expect(now(told, task({ stretches: [{ from: at, kind: 'waiting' }] }), -5000)).toEqual(told)
  })
  it('has a rate beside what the slower drive can do', () => {
    expect(rateWords(sum({}), 'the old drive')).toBeUndefined()
    expect(rateWords(sum({ rate_mb_s: 52 }), '')).toEqual({ words: '52.0 MB/s.', slow: false })
    expect(rateWords(sum({ rate_mb_s: 52, could_mb_s: 98 }), 'the old drive')).toEqual({ words: '52.0 MB/s; the old drive can do 98.0 MB/s.', slow: false })
    expect(rateWords(sum({ rate_mb_s: 30, could_mb_s: 98 }), 'the old drive')?.slow).toBe(true)
    expect(usualWords(sum({}))).toBe('')
    expect(usualWords(sum({ usual_min: 110, of: 5 }))).toBe('Usually 1 h 50 min here (5 earlier).')
  })
})

describe('the form of a task', () => {
  it.each([
    ['a clone', { what: 'clone', words: '', from: 'old-drive', gb: '390,5' }, 390_500_000_000],
    ['nothing known', { what: 'copy', words: '', from: '', gb: '' }, 0],
  ])('takes %s', (_, f, bytes) => expect(toTask(taskSchema.parse(f), 'waiting')).toMatchObject({ bytes, kind: 'waiting' }))
  it.each([
    ['no number', { what: 'clone', words: '', from: '', gb: 'much' }],
    ['other work without words', { what: 'other', words: '  ', from: '', gb: '' }],
  ])('refuses %s', (_, f) => expect(taskSchema.safeParse(f).success).toBe(false))
})
