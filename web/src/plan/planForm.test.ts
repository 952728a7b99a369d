import { describe, expect, it } from 'vitest'
import type { Test, View } from '../api/client'
import { changeOf, moved, planForm, planSchema } from './planForm'
import { readNumber } from '../ui/numbers'

const test = (t: Partial<Test>): Test => ({ id: 't', kind: 'timed', name: 'Start', unit: 's', better: 'lower', ...t })
const view = (tests: Test[], answer = 1) =>
  ({ job: { tests, plan: { questions: [{ id: 'starts', text: 'How often?', per_week: 7, answer }] } } }) as unknown as View

const plan = view([
  test({ id: 'start', wanted_runs: 3, per_week: 7 }),
  test({ id: 'read', kind: 'drive', params: { pattern: 'sequential', op: 'read', block_bytes: 1, depth: 1, span_bytes: 2 ** 30 } }),
  test({ id: 'gone', retired: true }),
])

describe('planSchema', () => {
  const of = (t: object, answers = {}) => planSchema.safeParse({ tests: { t: { runs: '3', uses: '', mib: '', ...t } }, answers }).success
  it.each([
    ['as it stands', {}, {}, true],
    ['a comma', { uses: '2,5' }, {}, true],
    ['no runs', { runs: '' }, {}, false],
    ['words', { mib: 'many' }, {}, false],
    ['streams', { streams: { count: '2', mb_s: '', width: '1920', height: '1080', frames_s: '25', bits: 'x' } }, {}, false],
    ['an answer that is none', {}, { q: '' }, false],
    ['less than nought', {}, { q: '-1' }, false],
  ])('%s', (_, t, answers, right) => expect(of(t, answers)).toBe(right))
})

describe('the form of a plan', () => {
  it('sends nothing that stands as it was', () => {
    expect(changeOf(plan, planForm(plan))).toEqual({ tests: {}, answers: {} })
  })
  it('sends what was changed, with a decimal comma or point', () => {
    const f = planForm(plan)
    f.tests.start!.runs = '5'
    f.tests.start!.uses = '2,5'
    f.tests.read!.mib = '512'
    f.answers.starts = '3'
    expect(changeOf(plan, f)).toEqual({ tests: { start: { wanted_runs: 5, per_week: 2.5 }, read: { span_bytes: 2 ** 29 } }, answers: { starts: 3 } })
  })
  it('leaves alone what somebody removed meanwhile, and what was retired', () => {
    const f = planForm(plan)
    f.tests.start!.runs = '9'
    expect(changeOf(view([]), f).tests).toEqual({})
    expect(planForm(plan).tests.gone).toBeUndefined()
  })
  it('sends when to press, and what a wait follows, only where that changed', () => {
    const wait = (id: string, more: object = {}) => ({ id, kind: 'timed', unit: 's', name: id, wanted_runs: 3, ...more })
    const view = { job: { tests: [wait('start', { begin: 'you press the power button', end: 'the first menu opens' }), wait('launch')], plan: { questions: [] } } } as unknown as View
    const form = planForm(view)
    expect(changeOf(view, form).tests).toEqual({})
    form.tests.launch = { ...form.tests.launch!, begin: ' you click the icon ', follows: 'start' }
    expect(changeOf(view, form).tests).toEqual({ launch: { begin: 'you click the icon', follows: 'start' } })
  })
  it('reads no number out of nothing', () => {
    expect(readNumber(' ')).toBeNaN()
    expect(readNumber('3 or 4')).toBeNaN()
  })
})

describe('moved', () => {
  it('puts a test at another place', () => {
    expect(moved(['a', 'b', 'c', 'd'], 0, 2)).toEqual(['b', 'c', 'a', 'd'])
    expect(moved(['a', 'b', 'c', 'd'], 3, 1)).toEqual(['a', 'd', 'b', 'c'])
  })
})
