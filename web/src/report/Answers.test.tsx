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
  it('keep what somebody types when something else of the job changes', () => {
    const { rerender } = within(<Answers view={view} />)
    fireEvent.change(screen.getAllByLabelText('What remains')[0]!, { target: { value: 'a slow network' } })
    rerender(
      <QueryClientProvider client={new QueryClient()}>
        <Answers view={{ ...view, revision: 2 } as View} />
      </QueryClientProvider>,
    )
    expect(screen.getAllByLabelText<HTMLInputElement>('What remains')[0]!.value).toBe('a slow network')
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Save answers' }).disabled).toBe(false)
  })

  it('are saved as they are chosen, and what remains with its button', async () => {
    answering()
    within(<Answers view={view} />)
    expect(screen.queryByRole('button', { name: 'Save answers' })).toBeNull()
    fireEvent.click(screen.getAllByLabelText('Solved')[0]!)
    fireEvent.click(screen.getAllByLabelText('Another cause found')[1]!)
    await waitFor(() => expect(sent).toHaveLength(2))
    expect(sent[1]).toEqual({ reasons: [{ what: 'slow-start', outcome: 'solved', remains: '' }, { what: 'crashes', words: 'it hangs at noon', outcome: 'other-cause', remains: '' }] })
    fireEvent.change(screen.getByLabelText('Which cause'), { target: { value: ' a loose fan ' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save answers' }))
    await waitFor(() => expect(sent).toHaveLength(3))
    expect(sent[2]).toEqual({ reasons: [{ what: 'slow-start', outcome: 'solved', remains: '' }, { what: 'crashes', words: 'it hangs at noon', outcome: 'other-cause', remains: 'a loose fan' }] })
  })
})
