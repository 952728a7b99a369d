// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { ConditionsForm, noNulls } from './ConditionsForm'

afterEach(cleanup)

const filled = (start: Parameters<typeof ConditionsForm>[0]['start'] = {}) => {
  const done = vi.fn()
  render(<ConditionsForm start={start} verb="Save" error={undefined} busy={false} onDone={done} />)
  return done
}

describe('test conditions', () => {
  it('say nothing that nobody said', () => {
    const done = filled()
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(done).toHaveBeenCalledExactlyOnceWith({ fill_pct: undefined })
  })
  it('tell nothing running from not known', () => {
    const done = filled()
    fireEvent.click(screen.getByLabelText('nothing'))
    fireEvent.click(screen.getByLabelText('Mains'))
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(done.mock.calls[0]![0]).toMatchObject({ busy: [], encrypting: false, power: 'mains' })
  })
  it('take back what was picked', () => {
    const done = filled({ power: 'battery', busy: ['update'] })
    fireEvent.click(screen.getByLabelText('an update'))
    fireEvent.click(screen.getByLabelText('a download'))
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(done.mock.calls[0]![0]).toMatchObject({ busy: ['download'], power: 'battery' })
  })
  it('do not take a fill level that cannot be', () => {
    const done = filled()
    fireEvent.change(screen.getByLabelText('How full'), { target: { value: '120' } })
    expect(screen.getByText('Between 0 and 100 %.')).toBeTruthy()
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(done).not.toHaveBeenCalled()
    fireEvent.change(screen.getByLabelText('How full'), { target: { value: '61,5' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(done.mock.calls[0]![0]).toEqual({ fill_pct: 61.5 })
  })
  it('take the firmware and what hangs on it', () => {
    const done = filled({ attached: [] })
    fireEvent.blur(screen.getByLabelText('Firmware version'), { target: { value: '1.7' } })
    fireEvent.click(screen.getByLabelText('Some'))
    fireEvent.blur(screen.getByLabelText('Which'), { target: { value: 'a dock, two sticks' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(done.mock.calls[0]![0]).toMatchObject({ attached: ['a dock', 'two sticks'], firmware: { version: '1.7' } })
  })
  it('leave to the bench what it measured and what happened', () => {
    expect(noNulls({ power: 'mains', events: [{ what: 'hang' }], battery_from_pct: 80, drive_temp_c: null })).toEqual({ power: 'mains' })
  })
})
