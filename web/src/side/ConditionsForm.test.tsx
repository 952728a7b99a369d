// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { Conditions } from '../api/client'
import { conditionsOf, formOf, noNulls } from './conditions'
import { ConditionsForm } from './ConditionsForm'

afterEach(cleanup)

const filled = (start: Parameters<typeof ConditionsForm>[0]['start'] = {}) => {
  const done = vi.fn()
  render(<ConditionsForm start={start} verb="Save" error={undefined} busy={false} onDone={done} />)
  return done
}

describe('test conditions', () => {
  it('say nothing that nobody said', async () => {
    const done = filled()
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    await waitFor(() => expect(done).toHaveBeenCalledExactlyOnceWith({}))
  })
  it('tell nothing running from not known', async () => {
    const done = filled()
    fireEvent.click(screen.getByLabelText('nothing'))
    fireEvent.click(screen.getByLabelText('Mains'))
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    await waitFor(() => expect(done).toHaveBeenCalled())
    expect(done.mock.calls[0]![0]).toMatchObject({ busy: [], encrypting: false, power: 'mains' })
  })
  it('take back what was picked', async () => {
    const done = filled({ power: 'battery', busy: ['update'] })
    fireEvent.click(screen.getByLabelText('an update'))
    fireEvent.click(screen.getByLabelText('a download'))
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    await waitFor(() => expect(done).toHaveBeenCalled())
    expect(done.mock.calls[0]![0]).toMatchObject({ busy: ['download'], power: 'battery' })
  })
  it('do not take a fill level that cannot be', async () => {
    const done = filled()
    fireEvent.change(screen.getByLabelText('How full'), { target: { value: '120' } })
    expect(await screen.findByText('Between 0 and 100 %.')).toBeTruthy()
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(done).not.toHaveBeenCalled()
    fireEvent.change(screen.getByLabelText('How full'), { target: { value: '61,5' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    await waitFor(() => expect(done).toHaveBeenCalled())
    expect(done.mock.calls[0]![0]).toEqual({ fill_pct: 61.5 })
  })
  it('take the firmware and attached devices', async () => {
    const done = filled({ attached: [] })
    fireEvent.change(screen.getByLabelText('Firmware version'), { target: { value: '1.7' } })
    fireEvent.click(screen.getByLabelText('Some'))
    fireEvent.change(screen.getByLabelText('Which'), { target: { value: 'a dock, two sticks' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    await waitFor(() => expect(done).toHaveBeenCalled())
    expect(done.mock.calls[0]![0]).toMatchObject({ attached: ['a dock', 'two sticks'], firmware: { version: '1.7' } })
  })
  it('leave to the bench what it measured and what happened', () => {
    expect(noNulls({ power: 'mains', events: [{ what: 'hang' }], battery_from_pct: 80, drive_temp_c: null })).toEqual({ power: 'mains' })
  })
  it.each<[string, Conditions]>([
    ['nothing known', {}],
    ['nothing running', { busy: [], encrypting: false }],
    ['all of it', { power: 'mains', power_mode: 'saving', encrypted: true, encrypting: true, fill_pct: 61.5, busy: ['update'], attached: ['a dock'], firmware: { version: '1.7', quick_start: false, storage_mode: 'AHCI', off: ['SATA 2'] }, room_temp_c: 21, cpu_pct: 3 }],
    ['a busy list without a word on encryption', { busy: ['scan'] }],
  ])('come back from the form as they went in: %s', (_, c: Conditions) => expect(conditionsOf(formOf(c), c)).toEqual(c))
})
