// @vitest-environment jsdom
import { describe, expect, it } from 'vitest'
import type { Ledger } from '../api/client'
import { groupsOf } from './axis'
import { heldBack } from './Ceilings'
import { ledgerAsSVG } from './picture'

const ledger = {
  then: { drive: '640 GB hard disk <b>', ceiling: {} },
  with: { drive: '960 GB SATA SSD & more', ceiling: {} },
  simulated: true,
  savings: null,
  findings: [],
  rows: [
    {
      test: { id: 't', name: 'Start "quick" <script>', unit: 's', kind: 'timed' },
      group: 'starts',
      words: { then: '90 s', with: '15 s', factor: '5.9 times as fast', waiting: '83 % less waiting', range: '', doubt: '' },
      line: { then: { centre: 90 }, with: { centre: 15 } },
      then_runs: [{ id: 'a', value: 89 }, { id: 'b', value: 91, set_aside: 'late' }],
      with_runs: [{ id: 'c', value: 15 }],
    },
  ],
} as unknown as Ledger

describe('the picture of a ledger', () => {
  const svg = ledgerAsSVG(ledger, groupsOf(ledger.rows), ['Then', 'Now'], '2026-0001')
  it('is whole, whatever the names are', () => {
    const doc = new DOMParser().parseFromString(svg, 'image/svg+xml')
    expect(doc.querySelector('parsererror')).toBeNull()
    expect(doc.querySelector('script, b')).toBeNull()
    expect([...doc.querySelectorAll('text')].map((t) => t.textContent)).toContain('Start "quick" <script>')
    expect(doc.documentElement.textContent).toContain('(simulated)')
    expect(svg).not.toContain('NaN')
  })
  it('has every run as a mark, those set aside in another colour', () => {
    const doc = new DOMParser().parseFromString(svg, 'image/svg+xml')
    expect(doc.querySelectorAll('rect[stroke="#8d5a04"]')).toHaveLength(1)
    expect(doc.querySelectorAll('rect[stroke="#5d6166"]')).toHaveLength(1)
    expect(doc.querySelectorAll('circle')).toHaveLength(1)
  })
})

describe('what holds a drive back', () => {
  const c = { rated_read: 550, rated_write: 500, link: 600, capable: 600, measured_read: 540, measured_write: 480 }
  it.each([
    ['its own rating', c, 'The drive itself is the ceiling'],
    ['a link that could be quicker', { ...c, link: 300 }, 'drive and port could do more'],
    ['a link that is as quick as it can be', { ...c, link: 300, capable: 300 }, 'gain nothing on this port'],
    ['a link of which nothing more is known', { ...c, link: 300, capable: null }, 'Whether drive and port could do more is not known'],
    ['nobody knows: the link', { ...c, link: null }, 'The link is not known.'],
    ['nobody knows: the rating', { ...c, rated_read: null }, 'rating is not known'],
  ])('%s', (_, ceiling, want) => expect(heldBack(ceiling)).toContain(want))
})
