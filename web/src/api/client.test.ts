// @vitest-environment jsdom
import { describe, expect, it } from 'vitest'
import { data, refusalOf, Refused } from './client'

const answer = (status: number, body: { data?: unknown; error?: unknown }) =>
  Promise.resolve({ ...body, response: new Response(null, { status }) })

describe('data', () => {
  it('returns what an answer holds', async () => {
    expect(await data(answer(200, { data: 7 }))).toBe(7)
    expect(await data(answer(200, { data: null }))).toBeNull()
  })
  it('throws the bench’s refusal with its words', async () => {
    const e = await data(answer(409, { error: { type: 'urn:nowthen:problem:conflict', title: 'x', status: 409, detail: 'No.', instance: '/', kept: 'All.', do: 'Wait.' } })).catch((e: unknown) => e)
    expect(e).toBeInstanceOf(Refused)
    expect((e as Refused).status).toBe(409)
    expect(refusalOf(e)).toEqual({ message: 'No.', kept: 'All.', do: 'Wait.' })
    expect((e as Refused).unanswered).toBe(false)
  })
  it('has words where there are none, and where nobody answers', async () => {
    expect(refusalOf(await data(answer(502, {})).catch((e: unknown) => e)).message).toContain('502')
    const e = await data(Promise.reject(new TypeError('fetch'))).catch((e: unknown) => e)
    expect(refusalOf(e).message).toBe('The bench does not answer.')
    expect(refusalOf('odd').message).toBe('odd')
  })
})
