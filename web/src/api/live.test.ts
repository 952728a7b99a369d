import { QueryClient } from '@tanstack/react-query'
import { describe, expect, it } from 'vitest'
import { apply } from './live'
import { keys } from './queries'

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
