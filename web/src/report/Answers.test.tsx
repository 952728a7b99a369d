// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { View } from '../api/client'
import { Answers } from './Answers'

const view = {
  id: 'j',
  revision: 1,
  job: { job: { number: '1', reasons: [{ what: 'slow-start' }, { what: 'crashes', words: 'it hangs at noon' }], work: [] } },
} as unknown as View

const sent: unknown[] = []
const answering = () =>
  vi.stubGlobal('fetch', async (r: Request) => {
    sent.push(await r.clone().json())
    return new Response(JSON.stringify(view), { status: 200, headers: { 'Content-Type': 'application/json' } })
  })

afterEach(() => {
  cleanup()
  sent.length = 0
  vi.unstubAllGlobals()
})

const within = (children: React.ReactNode) => render(<QueryClientProvider client={new QueryClient()}>{children}</QueryClientProvider>)

describe('the reasons for the visit', () => {
  it('keep what somebody has chosen when something else of the job changes', () => {
    const { rerender } = within(<Answers view={view} />)
    fireEvent.click(screen.getAllByLabelText('Solved')[0]!)
    rerender(
      <QueryClientProvider client={new QueryClient()}>
        <Answers view={{ ...view, revision: 2 } as View} />
      </QueryClientProvider>,
    )
    expect(screen.getAllByLabelText<HTMLInputElement>('Solved')[0]!.checked).toBe(true)
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Save answers' }).disabled).toBe(false)
  })

  it('are answered one by one', async () => {
    answering()
    within(<Answers view={view} />)
    const save = screen.getByRole<HTMLButtonElement>('button', { name: 'Save answers' })
    expect(save.disabled).toBe(true)
    fireEvent.click(screen.getAllByLabelText('Another cause found')[1]!)
    fireEvent.change(screen.getByLabelText('Which cause'), { target: { value: ' a loose fan ' } })
    fireEvent.click(save)
    await waitFor(() => expect(sent).toHaveLength(1))
    expect(sent[0]).toEqual({ reasons: [{ what: 'slow-start', remains: '' }, { what: 'crashes', words: 'it hangs at noon', outcome: 'other-cause', remains: 'a loose fan' }] })
    await waitFor(() => expect(save.disabled).toBe(true))
  })
})
