// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { Fold } from './Fold'

afterEach(cleanup)

const open = () => screen.getByRole<HTMLDetailsElement>('group').open
/** toggled is what a browser does when the heading is pressed. */
const toggled = (to: boolean) => {
  const details = screen.getByRole<HTMLDetailsElement>('group')
  details.open = to
  fireEvent(details, new Event('toggle'))
}

describe('a folded part', () => {
  it('opens by itself once there is a reason, and stays as somebody left it', () => {
    const at = (opened: boolean) => (
      <Fold title="Checks" status="fine" opened={opened}>
        inside
      </Fold>
    )
    const { rerender } = render(at(false))
    expect(open()).toBe(false)
    rerender(at(true))
    expect(open()).toBe(true)
    toggled(false)
    rerender(at(true))
    expect(open()).toBe(false)
    rerender(at(false))
    rerender(at(true))
    expect(open()).toBe(true)
    rerender(at(false))
    expect(open()).toBe(true)
  })
  it('says that it was opened, and how it stands to those who do not see it', () => {
    const onOpen = vi.fn()
    render(
      <Fold title="Will it fit in" status="not checked" live onOpen={onOpen}>
        inside
      </Fold>,
    )
    expect(screen.getByRole('status').textContent).toBe('not checked')
    expect(screen.getByRole('heading', { name: 'Will it fit in' })).toBeTruthy()
    expect(onOpen).not.toHaveBeenCalled()
    toggled(true)
    expect(onOpen).toHaveBeenCalledOnce()
  })
})
