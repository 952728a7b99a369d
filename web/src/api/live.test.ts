// @vitest-environment jsdom
import { QueryClient, QueryObserver } from '@tanstack/react-query'
import { describe, expect, it, onTestFinished } from 'vitest'
import { apply } from './live'
import type { Timer } from './client'
import { keys } from './cache'
import { takeAnswer } from '../timer/queries'

describe('apply', () => {
  it('puts a measuring and a timer into the cache', () => {
    const cache = new QueryClient()
    apply(cache, { type: 'measuring', job: 'a', data: { kept: 3 } })
    apply(cache, { type: 'timer', job: 'a', data: { state: 'running' } })
    expect(cache.getQueryData(keys.measuring('a'))).toEqual({ kept: 3 })
    expect(cache.getQueryData(keys.timer('a'))).toEqual({ state: 'running' })
    apply(cache, { type: 'timer', job: 'a' })
    expect(cache.getQueryData(keys.timer('a'))).toBeNull()
  })
  it('asks again for a job that changed, and for no other', () => {
    const cache = new QueryClient()
    for (const id of ['a', 'b']) cache.setQueryData(keys.job(id), { id })
    cache.setQueryData(keys.ledger('a'), {})
    apply(cache, { type: 'job', job: 'a' })
    expect(cache.getQueryState(keys.job('a'))?.isInvalidated).toBe(true)
    expect(cache.getQueryState(keys.ledger('a'))?.isInvalidated).toBe(true)
    expect(cache.getQueryState(keys.job('b'))?.isInvalidated).toBe(false)
  })
})

describe('a timer', () => {
  const when: Record<string, number> = { before: 1, held: 2, released: 3, 'released, then stopped': 4, armed: 1 }
  const as = (by: string) => ({ by, now_ms: when[by] }) as Timer
  /** watched is a page that shows the timer, and the bench's answers to it, given by hand. */
  function watched() {
    const cache = new QueryClient()
    const asked: ((t: Timer | null) => void)[] = []
    const seen = new QueryObserver(cache, { queryKey: keys.timer('a'), queryFn: () => new Promise<Timer | null>((answer) => asked.push(answer)) })
    onTestFinished(seen.subscribe(() => {}))
    return { cache, asked, now: () => cache.getQueryData<Timer | null>(keys.timer('a')) }
  }
  const settle = () => new Promise((done) => setTimeout(done))

  it('is not put back by an answer that an event has overtaken', async () => {
    const { cache, asked, now } = watched()
    apply(cache, { type: 'timer', job: 'a', data: as('held') })
    asked[0]!(as('before'))
    await settle()
    expect(now()).toEqual(as('held'))

    apply(cache, { type: 'timer', job: 'a', data: as('released') })
    void takeAnswer(cache, 'a', as('held'))
    expect(now()).toEqual(as('released'))
    expect(asked).toHaveLength(2)
    asked[1]!(as('released, then stopped'))
    await settle()
    expect(now()).toEqual(as('released, then stopped'))
  })
  it('stands as it was answered where that is newer', async () => {
    const { cache, asked, now } = watched()
    asked[0]!(as('before'))
    await settle()
    void takeAnswer(cache, 'a', as('held'))
    expect(now()).toEqual(as('held'))
    void takeAnswer(cache, 'a', as('before'))
    expect(now()).toEqual(as('held'))
  })
  it('stands as it was answered where there was none, until the bench says how it is', async () => {
    const { cache, asked, now } = watched()
    asked[0]!(null)
    await settle()
    void takeAnswer(cache, 'a', as('armed'))
    expect(now()).toEqual(as('armed'))
    asked[1]!(null) // discarded elsewhere meanwhile
    await settle()
    expect(now()).toBeNull()
  })
})
