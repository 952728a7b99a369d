// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { View } from '../api/client'
import { Work } from './Work'

const view = {
  id: 'j',
  revision: 1,
  job: { job: { number: '1', work: [] } },
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

describe('other work', () => {
  it('takes what was fitted, and no memory that is no figure', async () => {
    answering()
    within(<Work view={view} />)
    fireEvent.click(screen.getByLabelText('memory'))
    fireEvent.change(screen.getByLabelText('Memory fitted now'), { target: { value: 'lots' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(await screen.findByText('Enter a number in GiB, such as 16.')).toBeTruthy()
    expect(sent).toHaveLength(0)
    fireEvent.change(screen.getByLabelText('Memory fitted now'), { target: { value: '7,5' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    await waitFor(() => expect(sent).toHaveLength(1))
    expect(sent[0]).toEqual({ what: 'memory', note: '', fitted: { memory_bytes: 7.5 * 2 ** 30 } })
  })
})
