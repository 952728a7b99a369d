// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, cleanup, render } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { Refused, type Client } from './client'
import { useCommand, type Command } from './command'

afterEach(cleanup)

/** asked are the keys under which requests were sent. */
const asked: (string | null)[] = []
const fetched = vi.spyOn(globalThis, 'fetch').mockImplementation((input) => {
  asked.push((input as Request).headers.get('Idempotency-Key'))
  return Promise.resolve(new Response('[]', { status: 200, headers: { 'Content-Type': 'application/json' } }))
})

function shown<In>(send: (input: In, c: Client) => Promise<unknown>) {
  let command!: Command<In, unknown>
  function Page() {
    command = useCommand(send)
    return null
  }
  const page = render(
    <QueryClientProvider client={new QueryClient()}>
      <Page />
    </QueryClientProvider>,
  )
  asked.length = 0
  fetched.mockClear()
  return { get: () => command, leave: page.unmount }
}

const settle = () => act(() => new Promise((done) => setTimeout(done, 5)))

/** sends a request, so that its key is seen, and then ends as it is told. */
const ending = (how: () => Promise<unknown>) => async (_: string, c: Client) => {
  await c.DELETE('/api/jobs/{job}/timer', { params: { path: { job: 'j' } } })
  return how()
}

describe('useCommand', () => {
  it('sends a double tap once', async () => {
    const c = shown(ending(() => Promise.resolve(1)))
    const then = vi.fn()
    act(() => {
      c.get().run('keep', then)
      c.get().run('keep', then)
    })
    await settle()
    expect(asked).toHaveLength(1)
    expect(asked[0]).toMatch(/^[0-9a-f]{32}$/)
    expect(then).toHaveBeenCalledTimes(1)
  })
  it('lets another action through meanwhile, under a key of its own', async () => {
    const c = shown(ending(() => Promise.resolve(1)))
    act(() => {
      c.get().run('tick backup')
      c.get().run('tick screws')
    })
    await settle()
    expect(new Set(asked).size).toBe(2)
  })
  it('is a new action once the first is done', async () => {
    const c = shown(ending(() => Promise.resolve(1)))
    act(() => c.get().run('keep'))
    await settle()
    act(() => c.get().run('keep'))
    await settle()
    expect(new Set(asked).size).toBe(2)
  })
  it('keeps its key where it is not known what became of it, and not where it was refused', async () => {
    let status = 0
    const c = shown(ending(() => Promise.reject(new Refused({ message: 'x' }, status))))
    for (status of [0, 503, 409, 422]) {
      act(() => c.get().run('keep'))
      await settle()
    }
    expect(asked[1]).toBe(asked[0])
    expect(asked[2]).toBe(asked[0])
    expect(asked[3]).not.toBe(asked[0])
    expect(c.get().error?.status).toBe(422)
  })
})
