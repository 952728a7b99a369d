import { describe, expect, it } from 'vitest'
import type { View } from '../api/client'
import { billOf, billSchema } from './billForm'

const view = (bill?: object) => ({ job: { job: { number: '2031-0001', bill } } }) as unknown as View
const empty = { items: [{ what: '', amount: '' }], hour_worth: '', new_computer: '', support_ends: '' }

describe('the bill', () => {
  it('begins with a row to fill in', () => expect(billOf(view())).toEqual(empty))
  it('brings back what is kept', () =>
    expect(
      billOf(
        view({
          items: [{ what: 'labour', price: { amount: '60.00', currency: 'EUR' } }],
          hour_worth: { amount: '12.00', currency: 'EUR' },
          new_computer: { what: 'new', price: { amount: '720.00', currency: 'EUR' } },
          support_ends: '2031-10-14',
        }),
      ),
    ).toEqual({ items: [{ what: 'labour', amount: '60.00' }], hour_worth: '12.00', new_computer: '720.00', support_ends: '2031-10-14' }))
  it.each([
    ['nothing', empty, true],
    ['a comma', { ...empty, items: [{ what: 'adapter', amount: '9,5' }] }, true],
    ['an item without its amount', { ...empty, items: [{ what: 'adapter', amount: '' }] }, false],
    ['an amount without its item', { ...empty, items: [{ what: '', amount: '9' }] }, false],
    ['a sign', { ...empty, hour_worth: '-3' }, false],
    ['thousands', { ...empty, new_computer: '1,200.00' }, false],
  ])('%s', (_, form, good) => expect(billSchema.safeParse(form).success).toBe(good))
})
