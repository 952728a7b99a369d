// @vitest-environment jsdom
import { act, cleanup, render, screen } from '@testing-library/react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { useSilence } from './silence'

const Shown = ({ value }: { value: string }) => <p>{useSilence(value)}</p>

beforeEach(() => void vi.useFakeTimers())
afterEach(() => {
  cleanup()
  vi.useRealTimers()
})

it('counts from the last change, and says nothing for five seconds', () => {
  const { rerender } = render(<Shown value="a" />)
  act(() => void vi.advanceTimersByTime(5000))
  expect(screen.getByText('0')).toBeTruthy()
  act(() => void vi.advanceTimersByTime(2000))
  expect(screen.getByText('7')).toBeTruthy()
  rerender(<Shown value="b" />)
  act(() => void vi.advanceTimersByTime(1000))
  expect(screen.getByText('0')).toBeTruthy()
})
