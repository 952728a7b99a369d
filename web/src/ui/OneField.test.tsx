// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { OneField } from './OneField'

afterEach(cleanup)

describe('a form of one line', () => {
  it('sends what was typed, without blanks at its ends, and is emptied when that is done', async () => {
    const done = vi.fn()
    render(<OneField label="Another step" verb="Add" of={{ isPending: false }} onDone={done} />)
    const field = screen.getByLabelText<HTMLInputElement>('Another step')
    const add = screen.getByRole<HTMLButtonElement>('button', { name: 'Add' })
    expect(add.disabled).toBe(true)
    fireEvent.change(field, { target: { value: '   ' } })
    expect(add.disabled).toBe(true)
    fireEvent.change(field, { target: { value: ' dust the fan ' } })
    fireEvent.click(add)
    await waitFor(() => expect(done).toHaveBeenCalledOnce())
    expect(done.mock.calls[0]![0]).toBe('dust the fan')
    expect(field.value).toBe(' dust the fan ')
    done.mock.calls[0]![1]()
    await waitFor(() => expect(field.value).toBe(''))
  })
  it('is left with Escape, and waits while it is sent', () => {
    const left = vi.fn()
    render(<OneField label="Why" verb="Set aside" of={{ isPending: true }} onDone={vi.fn()} onLeave={left} />)
    fireEvent.keyDown(screen.getByLabelText('Why'), { key: 'Escape' })
    expect(left).toHaveBeenCalledOnce()
    expect(screen.getByRole<HTMLButtonElement>('button').disabled).toBe(true)
  })
})
