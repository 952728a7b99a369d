// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { createMemoryRouter, RouterProvider } from 'react-router'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { View } from '../api/client'
import { Gate } from './Gate'

const view = (more: object = {}, head: object = {}) =>
  ({
    id: 'j', revision: 1, here: 'then', page: 'then', lost: [], closing: [], again: [], back: [], coverage: [],
    job: { job: { number: '1', reason: '', gates: [], ...head }, plan: { steps: [{ id: 'backup', text: 'Backup is made', when: 'then' }] }, setups: [{ id: 'then', role: 'then', drive: 'd1' }], drives: [], sittings: [], runs: [], tests: [] },
    ...more,
  }) as unknown as View

/** sent are the requests that went out, by method and path, with their bodies. */
const sent: { what: string; body: unknown }[] = []

const answer = (status: number, body: unknown) =>
  vi.stubGlobal('fetch', async (r: Request) => {
    sent.push({ what: `${r.method} ${new URL(r.url).pathname}`, body: await r.clone().json().catch(() => undefined) })
    return new Response(JSON.stringify(body), { status, headers: { 'Content-Type': status < 400 ? 'application/json' : 'application/problem+json' } })
  })

const show = (v: View, name: 'old-drive-out' | 'case-closed' | 'measured-again' | 'handed-back') => {
  const router = createMemoryRouter([{ path: '*', element: <Gate view={v} name={name} /> }])
  render(
    <QueryClientProvider client={new QueryClient()}>
      <RouterProvider router={router} />
    </QueryClientProvider>,
  )
}

afterEach(() => {
  cleanup()
  sent.length = 0
  vi.unstubAllGlobals()
})

describe('a gate', () => {
  it('stays shut while something is missing and nobody says why', async () => {
    show(view({ lost: [{ test: 't', what: 'Cold start was not measured on the old drive' }] }), 'old-drive-out')
    expect(screen.getByText('Cold start was not measured on the old drive')).toBeTruthy()
    const pass = screen.getByRole<HTMLButtonElement>('button', { name: 'Old drive is out' })
    expect(pass.disabled).toBe(true)
    answer(200, view())
    fireEvent.change(screen.getByLabelText(/Reason for going ahead/), { target: { value: 'it died' } })
    expect(pass.disabled).toBe(false)
    fireEvent.click(pass)
    await waitFor(() => expect(sent).toHaveLength(1))
    expect(sent[0]).toMatchObject({ what: 'POST /api/jobs/j/gates', body: { gate: 'old-drive-out', why: 'it died' } })
  })
  it('keeps the field in which somebody is typing when the last missing thing arrives from elsewhere', () => {
    const client = new QueryClient()
    const page = (v: View) => (
      <QueryClientProvider client={client}>
        <RouterProvider router={createMemoryRouter([{ path: '*', element: <Gate view={v} name="old-drive-out" /> }])} />
      </QueryClientProvider>
    )
    const { rerender } = render(page(view({ lost: [{ test: '', what: 'the backup is not ticked off' }] })))
    rerender(page(view()))
    expect(screen.queryByLabelText(/Reason for going ahead/)).toBeNull()
    rerender(page(view({ lost: [{ test: '', what: 'the backup is not ticked off' }] })))
    fireEvent.change(screen.getByLabelText(/Reason for going ahead/), { target: { value: 'it d' } })
    rerender(page(view()))
    expect(screen.getByLabelText<HTMLInputElement>(/Reason for going ahead/).value).toBe('it d')
  })
  it('holds the boxes that it asks for', async () => {
    show(view({ lost: [{ test: '', what: 'the backup is not ticked off' }] }), 'old-drive-out')
    answer(200, view())
    fireEvent.click(screen.getByRole('checkbox', { name: 'Backup is made' }))
    await waitFor(() => expect(sent[0]).toMatchObject({ what: 'PUT /api/jobs/j/steps/backup', body: { done: true } }))
    expect(screen.getByLabelText(/In use on Then/)).toBeTruthy()
  })
  it('has the boxes of its steps before the case is sealed, and says nothing twice', () => {
    const v = view({ closing: [{ test: '', what: 'not ticked: Fans turn' }] })
    v.job.plan.steps = [...(v.job.plan.steps ?? []), { id: 'fans', text: 'Fans turn', when: 'close' }] as typeof v.job.plan.steps
    show(v, 'case-closed')
    expect(screen.getByRole('checkbox', { name: 'Fans turn' })).toBeTruthy()
    expect(screen.queryByText('not ticked: Fans turn')).toBeNull()
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Case is closed' }).disabled).toBe(true)
  })
  it('ticks all of them one after the other, and says what the bench refuses', async () => {
    const v = view()
    v.job.plan.steps = [1, 2, 3].map((n) => ({ id: `s${n}`, text: `Step ${n}`, when: 'close' })) as typeof v.job.plan.steps
    vi.stubGlobal('fetch', async (r: Request) => {
      const what = `${r.method} ${new URL(r.url).pathname}`
      if (r.method === 'PUT') sent.push({ what, body: await r.clone().json() })
      if (r.method === 'PUT' && what.endsWith('s2'))
        return new Response(JSON.stringify({ type: 'x', title: 'x', status: 507, detail: 'The disk is full.', message: 'The disk is full.' }), { status: 507, headers: { 'Content-Type': 'application/problem+json' } })
      return new Response(JSON.stringify(r.method === 'PUT' ? v : { checks: [] }), { headers: { 'Content-Type': 'application/json' } })
    })
    show(v, 'case-closed')
    fireEvent.click(screen.getByRole('button', { name: 'Tick all 3' }))
    expect(await screen.findByText(/The disk is full/)).toBeTruthy()
    expect(sent.map((s) => s.what)).toEqual(['PUT /api/jobs/j/steps/s1', 'PUT /api/jobs/j/steps/s2'])
  })
  it('says what of the new drive is not as it should be, and asks why it is passed all the same', async () => {
    const check = (id: string, gate: string, state: string) => ({ id, title: `Check ${id}`, state, found: 'so', should: '', do: state === 'wrong' ? 'Mend it.' : '', by_hand: false, gate, rule: '' })
    answer(200, { checks: [check('link', 'case-closed', 'wrong'), check('trim', 'handed-back', 'wrong'), check('recognised', 'case-closed', 'fine')] })
    show(view(), 'case-closed')
    expect(await screen.findByText('Check link')).toBeTruthy()
    expect(screen.getByText('Mend it.')).toBeTruthy()
    expect(screen.queryByText('Check trim')).toBeNull()
    expect(screen.queryByText('Check recognised')).toBeNull()
    const pass = screen.getByRole<HTMLButtonElement>('button', { name: 'Case is closed' })
    expect(pass.disabled).toBe(true)
    fireEvent.change(screen.getByLabelText(/Reason for going ahead/), { target: { value: 'the port is slow' } })
    expect(pass.disabled).toBe(false)
  })
  it('wants to know what becomes of the old drive at the end', () => {
    show(view({ here: 'compare' }), 'handed-back')
    const pass = screen.getByRole<HTMLButtonElement>('button', { name: 'Hand back' })
    expect(pass.disabled).toBe(true)
    expect(screen.getByText('Choose above what happens to the old drive.')).toBeTruthy()
    cleanup()
    const v = view({ here: 'compare' })
    v.job.drives.push({ id: 'd1', fate: 'returned' } as never)
    show(v, 'handed-back')
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Hand back' }).disabled).toBe(false)
  })
  it.each([
    [[], 'Measuring is done'],
    [[{ test: 't', what: 'a start was not measured' }], 'Continue without these tests'],
  ])('goes on without tests only where some are missing', (again, name) => {
    show(view({ again }), 'measured-again')
    expect(screen.getByRole('button', { name })).toBeTruthy()
  })
  it('takes no drive out where one is added', () => {
    const v = view()
    v.job.setups.push({ id: 'now', role: 'now', computer: 'c1', drive: 'd2', relation: 'added' })
    show(v, 'old-drive-out')
    expect(screen.getByRole('heading', { name: 'Checkpoint: new drive in' })).toBeTruthy()
    expect(screen.queryByText('Old drive is out')).toBeNull()
  })
  it('says what the bench refuses', async () => {
    show(view(), 'measured-again')
    answer(409, { type: 'x', title: 'x', status: 409, detail: 'You have already passed this checkpoint.', message: 'You have already passed this checkpoint.' })
    fireEvent.click(screen.getByRole('button', { name: 'Measuring is done' }))
    expect(await screen.findByRole('alert')).toBeTruthy()
  })
  it('tells of one that was passed when and why', () => {
    show(view({}, { gates: [{ name: 'old-drive-out', at: '2026-11-03T09:40:00Z', why: 'it died', missing: ['a backup'] }] }), 'old-drive-out')
    expect(screen.getByText(/Old drive out:/).textContent).toMatch(/Missing: a backup\. Because: it died/)
  })
  it('takes back the one that was passed last, and no other', async () => {
    const gates = [{ name: 'old-drive-out', at: '2026-11-03T09:40:00Z' }, { name: 'case-closed', at: '2026-11-03T10:40:00Z' }]
    show(view({}, { gates }), 'old-drive-out')
    expect(screen.queryByRole('button')).toBeNull()
    cleanup()
    show(view({}, { gates }), 'case-closed')
    answer(200, view())
    fireEvent.click(screen.getByRole('button', { name: 'Undo the checkpoint Case closed' }))
    await waitFor(() => expect(sent[0]).toMatchObject({ what: 'DELETE /api/jobs/j/gates/case-closed' }))
  })
  it('counts the tests that a page shows anyway, with a link to it', () => {
    const lost = ['a', 'b', 'c'].map((test) => ({ test, what: `${test} was not measured on the old drive` }))
    show(view({ lost: [...lost, { test: '', what: 'the backup is not ticked off' }] }), 'old-drive-out')
    expect(screen.getByRole('link', { name: '3 tests not measured' }).getAttribute('href')).toBe('/jobs/j/then')
    expect(screen.queryByText('a was not measured on the old drive')).toBeNull()
    expect(screen.getByText('the backup is not ticked off')).toBeTruthy()
  })
  it.each([
    ['added', 'stays-inside'],
    ['returns', 'put-back'],
  ])('asks nothing of a drive where the new one %s: only one thing can become of it', async (relation, old_drive) => {
    const v = view({ here: 'compare' })
    v.job.setups.push({ id: 'now', role: 'now', computer: 'c1', drive: 'd2', relation } as never)
    show(v, 'handed-back')
    answer(200, v)
    fireEvent.click(screen.getByRole('button', { name: 'Hand back' }))
    await waitFor(() => expect(sent[0]).toMatchObject({ body: { gate: 'handed-back', old_drive } }))
  })
})
