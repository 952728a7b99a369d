// @ts-expect-error -- the pages have no types of Node; this test alone reads a file
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'

const css: string = readFileSync(new URL('./app.css', import.meta.url), 'utf8')

/** tokens are a theme's colours by name, as the style sheet has them. */
function tokens(theme: 'day' | 'dim'): Record<string, string> {
  const found: Record<string, string> = {}
  const take = (block: string) => {
    for (const m of block.matchAll(/--(?:color-)?([a-z0-9-]+):\s*(#[0-9a-f]{6})/g)) found[m[1]!] = m[2]!
  }
  for (const block of css.match(/@plugin "daisyui\/theme" \{[^}]*\}/g) ?? []) if (block.includes(`name: "${theme}"`)) take(block)
  for (const m of css.matchAll(/([^{}]*)\{([^{}]*--then:[^{}]*)\}/g)) {
    const [, selector, block] = m as unknown as [string, string, string]
    if (theme === 'day' ? selector.includes(':root,') || selector.includes('data-theme="day"') : selector.includes('data-theme="dim"')) take(block)
  }
  return found
}

const luminance = (hex: string) => {
  const [r, g, b] = [1, 3, 5].map((i) => {
    const c = parseInt(hex.slice(i, i + 2), 16) / 255
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4
  }) as [number, number, number]
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}

/** contrast of two colours (WCAG 2.2, contrast ratio). */
const contrast = (a: string, b: string) => {
  const [low, high] = [luminance(a), luminance(b)].sort((x, y) => x - y) as [number, number]
  return (high + 0.05) / (low + 0.05)
}

describe.each(['day', 'dim'] as const)('the colours of the %s theme', (theme) => {
  const t = tokens(theme)
  it('are all there', () => {
    for (const name of ['base-100', 'base-200', 'base-300', 'base-content', 'secondary', 'then', 'now', 'then-soft', 'now-soft', 'error', 'warning', 'accent']) expect(t[name], name).toMatch(/^#/)
  })
  it.each(['base-100', 'base-200'])('read on %s: text 4.5 : 1', (ground) => {
    for (const ink of ['base-content', 'secondary', 'accent', 'info', 'success', 'warning', 'error', 'then', 'now']) {
      expect(contrast(t[ink]!, t[ground]!), `${ink} on ${ground}`).toBeGreaterThanOrEqual(4.5)
    }
  })
  it('read on the soft grounds of the sides', () => {
    for (const side of ['then', 'now']) expect(contrast(t['base-content']!, t[`${side}-soft`]!)).toBeGreaterThanOrEqual(4.5)
  })
  it('read on buttons and messages', () => {
    for (const of of ['primary', 'secondary', 'accent', 'neutral', 'info', 'success', 'warning', 'error']) {
      expect(contrast(t[`${of}-content`]!, t[of]!), of).toBeGreaterThanOrEqual(4.5)
    }
  })
  it('show marks of data and borders of inputs: 3 : 1', () => {
    for (const ground of ['base-100', 'base-200']) {
      for (const mark of ['then', 'now', 'secondary']) expect(contrast(t[mark]!, t[ground]!)).toBeGreaterThanOrEqual(3)
      expect(contrast(t['field']!, t[ground]!), `border of inputs on ${ground}`).toBeGreaterThanOrEqual(3)
    }
  })
})
