// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, cleanup, renderHook, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Clock } from '../api/clock'
import { useOutbox } from './outbox'
import { waitingPresses } from './waiting'

const clock = new Clock(() => Promise.resolve(0), () => 0, () => 0)
const around = ({ children }: { children: ReactNode }) => <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>{children}</QueryClientProvider>
const press = (key: string) => ({ key, timer: 'T', kind: 'press' as const, at_ms: 1, u_ms: 1 })
const timer = { id: 'T', state: 'running', marks_ms: [], holds: [], phases: [], taken: [] }

let arrive: ((r: Response) => void)[] = []
const keys: string[] = []

beforeEach(() => {
  localStorage.clear()
  arrive = []
  keys.length = 0
  vi.stubGlobal('fetch', async (r: Request) => {
    if (r.method === 'POST') keys.push(((await r.clone().json()) as { key: string }).key)
    else if (!r.url.includes('/presses')) return new Response(JSON.stringify(timer), { headers: { 'Content-Type': 'application/json' } })
    return new Promise<Response>((then) => arrive.push(then))
  })
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const ok = () => new Response(JSON.stringify(timer), { headers: { 'Content-Type': 'application/json' } })
const refused = (status: number) => new Response(JSON.stringify({ status, title: 'no', detail: 'no' }), { status, headers: { 'Content-Type': 'application/problem+json' } })

describe('what waits to be sent', () => {
  it('goes in its order, one after the other, and stays on the device until it is there', async () => {
    const { result } = renderHook(() => useOutbox('j', clock), { wrapper: around })
    act(() => {
      result.current.press(press('a'))
      result.current.press(press('b'))
    })
    await waitFor(() => expect(keys).toEqual(['a']))
    expect(waitingPresses('j').map((p) => p.key)).toEqual(['a', 'b'])
    act(() => arrive.shift()!(ok()))
    await waitFor(() => expect(keys).toEqual(['a', 'b']))
    expect(waitingPresses('j').map((p) => p.key)).toEqual(['b'])
    act(() => arrive.shift()!(ok()))
    await waitFor(() => expect(waitingPresses('j')).toEqual([]))
  })
  it('keeps a run only after all that was pressed is there', async () => {
    const { result } = renderHook(() => useOutbox('j', clock), { wrapper: around })
    const keep = vi.fn()
    act(() => result.current.after('T', keep))
    expect(keep, 'nothing waits').toHaveBeenCalledExactlyOnceWith('T')
    keep.mockClear()
    act(() => result.current.press(press('a')))
    await waitFor(() => expect(keys).toEqual(['a']))
    act(() => result.current.after('T', keep))
    expect(keep).not.toHaveBeenCalled()
    expect(result.current.held).toBe(true)
    act(() => arrive.shift()!(ok()))
    await waitFor(() => expect(keep).toHaveBeenCalledExactlyOnceWith('T'))
    expect(result.current.held).toBe(false)
  })
  it('keeps nothing where a press was refused: the time is not what was looked at', async () => {
    const { result } = renderHook(() => useOutbox('j', clock), { wrapper: around })
    const keep = vi.fn()
    act(() => result.current.press(press('a')))
    await waitFor(() => expect(keys).toEqual(['a']))
    act(() => result.current.after('T', keep))
    act(() => arrive.shift()!(refused(409)))
    await waitFor(() => expect(result.current.error).toBeDefined())
    expect(keep).not.toHaveBeenCalled()
    expect(result.current.held).toBe(false)
    expect(waitingPresses('j')).toEqual([])
  })
  it('is not kept where the last press is taken back', async () => {
    const { result } = renderHook(() => useOutbox('j', clock), { wrapper: around })
    const keep = vi.fn()
    act(() => result.current.press(press('a')))
    await waitFor(() => expect(keys).toEqual(['a']))
    act(() => result.current.after('T', keep))
    act(() => result.current.undo('T'))
    expect(result.current.held).toBe(false)
    act(() => arrive.shift()!(ok()))
    await waitFor(() => expect(arrive).toHaveLength(1))
    expect(keep).not.toHaveBeenCalled()
  })
})
