import { describe, expect, it } from 'vitest'
import router from './router.tsx?raw'
import { words, wordsOn } from './words'

const under = (path: string) => (path === '/' ? 'jobs' : path.replace(/^\//, '').split('/')[0]!)
// A sheet to print needs no help, and the page of reactions explains itself.
const without = ['reaction', 'ledger', '*', 'swap/sheet']
const pages = [...router.matchAll(/path: '([^']+)'/g)].map((m) => m[1]!.replace('/jobs/:job/', '')).filter((p) => !without.some((w) => p.includes(w)) && p !== '/jobs/:job')

describe('the words of a page', () => {
  it('are explained on every page', () => {
    expect(pages.length).toBeGreaterThan(12)
    for (const p of pages) expect(wordsOn(p.startsWith('/') ? p : `/jobs/1/${p}`), p).not.toHaveLength(0)
  })
  it('name pages that there are', () => {
    const known = [...pages.map(under), 'jobs']
    for (const w of words) for (const p of w.on.split(' ')) expect(known, `${w.term} on ${p}`).toContain(p)
  })
  it('are short', () => {
    for (const w of words) expect(w.means.length, w.term).toBeLessThanOrEqual(100)
  })
})
