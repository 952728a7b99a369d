// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { View } from '../api/client'
import { purposeOf } from '../job/view'
import { Purpose } from './Purpose'

const run = vi.fn()
vi.mock('./queries', () => ({ useSetPurpose: () => ({ run, error: null }) }))
afterEach(() => {
  cleanup()
  run.mockClear()
})

type Sitting = View['job']['sittings'][number]
const sitting = (s: Partial<Sitting> = {}): Sitting => ({ id: 's2', setup: 'now', conditions: { power: 'battery' }, ...s })
const show = (s: Sitting) => render(<Purpose view={{ id: 'j' } as View} sitting={s} />)
const pick = (value: string) => fireEvent.change(screen.getByLabelText('What this session is for'), { target: { value } })

describe('the purpose of a session', () => {
  it.each([
    ['the visit, where nobody said', {}, 'visit'],
    ['a check-up, in an older job', { follow_up: true }, 'check-up'],
    ['what was said since', { follow_up: true, purpose: 'visit' as const }, 'visit'],
  ])('is %s', (_, s, want) => expect(purposeOf(sitting(s))).toBe(want))
  it('asks which question, and begins with what differs', () => {
    show(sitting())
    pick('question')
    expect(run).not.toHaveBeenCalled()
    const question = screen.getByLabelText('Question')
    expect(question).toHaveProperty('value', 'on battery')
    fireEvent.change(question, { target: { value: '  ' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(run).not.toHaveBeenCalled()
    fireEvent.change(question, { target: { value: 'recording on ' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(run).toHaveBeenCalledExactlyOnceWith({ sitting: 's2', purpose: 'question', question: 'recording on' })
  })
  it('keeps where it was', () => {
    const where = { computer: 'bench', port: 'usb' } as const
    show(sitting({ where, purpose: 'question', question: 'on battery' }))
    expect(screen.getByText('on battery')).toBeTruthy()
    pick('check-up')
    expect(run).toHaveBeenCalledExactlyOnceWith({ sitting: 's2', purpose: 'check-up', question: '', where })
  })
})
