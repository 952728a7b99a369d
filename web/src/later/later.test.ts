import { describe, expect, it } from 'vitest'
import { dueDay, dueIn, overdue, promiseWords, soon, type Promised } from './later'
import { promiseSchema, toPromise } from './promiseForm'

const p = (of: Partial<Promised>): Promised => ({ id: 'p', what: 'words', due: '2026-12-04', ...of })

describe('what is promised for later', () => {
  it.each([
    ['week', '2026-11-27', '2026-12-04'],
    ['week', '2026-12-28', '2027-01-04'],
    ['month', '2027-01-31', '2027-02-28'],
    ['half', '2026-08-31', '2027-02-28'],
    ['half', '2026-11-27', '2027-05-27'],
  ] as const)('lies %s ahead of %s: %s', (term, from, due) => {
    const [y, m, d] = from.split('-').map(Number)
    expect(dueIn(term, new Date(y!, m! - 1, d!))).toBe(due)
  })
  it('is said in words', () => {
    expect(promiseWords(p({ words: 'with the scanner off' }), '')).toBe('with the scanner off')
    expect(promiseWords(p({ what: 'fill' }), '')).toBe('How full the drive is')
    expect(promiseWords(p({ what: 'test', test: 't' }), 'Wake from sleep')).toBe('Wake from sleep again')
    expect(promiseWords(p({ what: 'test', test: 't', words: 'on the battery' }), 'Wake from sleep')).toBe('Wake from sleep again: on the battery')
  })
  it('is due by its day', () => {
    expect(dueDay('2026-12-04')).toBe('4 December 2026')
    expect(overdue(p({}), '2026-12-04')).toBe(false)
    expect(overdue(p({}), '2026-12-05')).toBe(true)
    expect(soon(p({}), new Date(2026, 10, 20))).toBe(true)
    expect(soon(p({}), new Date(2026, 10, 19))).toBe(false)
  })
  it.each([
    [{ what: 'words', words: '', due: '2026-12-04' }, false],
    [{ what: 'words', words: ' x ', due: '2026-12-04' }, true],
    [{ what: 'fill', words: '', due: 'soon' }, false],
    [{ what: 't-battery', words: '', due: '2026-12-04' }, true],
  ])('takes %j: %j', (form, right) => expect(promiseSchema.safeParse(form).success).toBe(right))
  it('goes to the bench as what it is', () => {
    expect(toPromise({ what: 't-battery', words: '', due: 'd' })).toEqual({ what: 'test', test: 't-battery', due: 'd' })
    expect(toPromise({ what: 'words', words: 'x', due: 'd' })).toEqual({ what: 'words', words: 'x', due: 'd' })
  })
})
