// @vitest-environment jsdom
import { cleanup, render, screen } from '@testing-library/react'
import { MemoryRouter } from 'react-router'
import { afterEach, describe, expect, it } from 'vitest'
import type { Ledger, View } from '../api/client'
import { OverTime } from './OverTime'

afterEach(cleanup)

const view = { job: { setups: [{ id: 'now', role: 'now' }], tests: [{ id: 'start', name: 'Start', unit: 's' }] } } as unknown as View
const ledger = (over_time: object[]) => ({ over_time }) as unknown as Ledger
const course = {
  setup: 'now',
  sittings: [
    { id: 's2', started: '2031-03-01T09:00:00Z', fill_pct: 41, temp_c: null },
    { id: 's5', started: '2031-09-01T09:00:00Z', fill_pct: 78, temp_c: null },
  ],
  tests: [{ test: 'start', centres: [36, null] }],
}

describe('figures over time', () => {
  const show = (l: Ledger) =>
    render(
      <MemoryRouter>
        <OverTime view={view} ledger={l} />
      </MemoryRouter>,
    )
  it('stand beside each other with how full it was, and lead to the comparison', () => {
    show(ledger([course]))
    expect(screen.getByRole('heading', { name: 'Over time: Now' })).toBeTruthy()
    expect(screen.getAllByRole('row').map((r) => r.textContent)).toEqual(['The middle of each session’s runs1 March 20311 September 2031', 'Start36.0 snot measured', 'How full it was41 %78 %'])
    expect(screen.getByRole('link').getAttribute('href')).toContain('?then=s2&with=s5')
  })
  it('are nothing within one visit', () => {
    show(ledger([]))
    expect(screen.queryByRole('heading')).toBeNull()
  })
})
