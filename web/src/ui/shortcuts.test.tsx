// @vitest-environment jsdom
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
      <input type="range" aria-label="slider" />
      <input type="checkbox" aria-label="box" />
      <input type="radio" aria-label="choice" />
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
  it('works while a slider, a box or a choice has the focus, but for the keys that they use', () => {
    const run = vi.fn()
    const { getByLabelText } = render(<Page list={[' ', 'k', 'ArrowLeft'].map((key) => ({ key, label: '', run: () => run(key) }))} />)
    for (const label of ['slider', 'box', 'choice']) fireEvent.keyDown(getByLabelText(label), { key: 'k' })
    expect(run.mock.calls).toEqual([['k'], ['k'], ['k']])
    run.mockClear()
    fireEvent.keyDown(getByLabelText('slider'), { key: ' ' })
    fireEvent.keyDown(getByLabelText('slider'), { key: 'ArrowLeft' })
    fireEvent.keyDown(getByLabelText('box'), { key: ' ' })
    fireEvent.keyDown(getByLabelText('box'), { key: 'ArrowLeft' })
    fireEvent.keyDown(getByLabelText('choice'), { key: 'ArrowLeft' })
    expect(run.mock.calls).toEqual([[' '], ['ArrowLeft']])
  })
  it('ends with its page', () => {
    const run = vi.fn()
    render(<Page list={[{ key: 'k', label: '', run }]} />).unmount()
    fireEvent.keyDown(window, { key: 'k' })
    expect(run).not.toHaveBeenCalled()
  })
})
