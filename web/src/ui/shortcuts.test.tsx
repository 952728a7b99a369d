import { cleanup, fireEvent, render } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { useShortcuts, type Shortcut } from './shortcuts'

afterEach(cleanup)

function Page({ list }: { list: Shortcut[] }) {
  useShortcuts(list)
  return (
    <>
      <input aria-label="field" />
      <button>press</button>
    </>
  )
}

describe('useShortcuts', () => {
  it('runs a key, but not while something is typed and not as it repeats', () => {
    const run = vi.fn()
    const { getByLabelText } = render(<Page list={[{ key: 'k', label: 'keep', run }]} />)
    fireEvent.keyDown(window, { key: 'k' })
    expect(run).toHaveBeenCalledTimes(1)
    fireEvent.keyDown(getByLabelText('field'), { key: 'k' })
    fireEvent.keyDown(window, { key: 'k', repeat: true })
    fireEvent.keyDown(window, { key: 'k', ctrlKey: true })
    expect(run).toHaveBeenCalledTimes(1)
  })
  it('leaves space to a button that has the focus, unless the key is always the page’s', () => {
    const usual = vi.fn()
    const always = vi.fn()
    const { getByText, rerender } = render(<Page list={[{ key: ' ', label: '', run: usual }]} />)
    fireEvent.keyDown(getByText('press'), { key: ' ' })
    expect(usual).not.toHaveBeenCalled()
    rerender(<Page list={[{ key: ' ', label: '', run: always, always: true }]} />)
    fireEvent.keyDown(getByText('press'), { key: ' ' })
    expect(always).toHaveBeenCalledTimes(1)
  })
  it('ends with its page', () => {
    const run = vi.fn()
    render(<Page list={[{ key: 'k', label: '', run }]} />).unmount()
    fireEvent.keyDown(window, { key: 'k' })
    expect(run).not.toHaveBeenCalled()
  })
})
