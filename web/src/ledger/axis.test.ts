import { describe, expect, it } from 'vitest'
import type { Ledger, Row } from '../api/client'
import { axisOf, groupsOf, tallyInWords, tallyOf } from './axis'
import { ledgerAsCSV, ledgerAsText, lineAsText } from './copy'
import { effectsOf, findingsOf } from './findings'

const row = (id: string, group: string, unit: string, then: number[], now: number[], line: object = {}): Row =>
  ({
    test: { id, name: `Test ${id}`, unit, kind: unit === 's' ? 'timed' : 'drive' },
    group,
    words: { then: then.length ? `${then[0]} ${unit}` : '', with: now.length ? `${now[0]} ${unit}` : '', factor: '2.0 times as fast', waiting: '', saves: '', range: '', doubt: '' },
    line: { verdict: 'faster', equal: false, holds_after_all: true, then: then.length ? { centre: then[0], n: then.length } : null, with: now.length ? { centre: now[0], n: now.length } : null, factor: 2, low: 1.5, high: 2.5, findings: [], ...line },
    then_runs: then.map((value, i) => ({ id: `${id}a${i}`, value })),
    with_runs: now.map((value, i) => ({ id: `${id}b${i}`, value })),
  }) as unknown as Row

describe('the scale of a group', () => {
  it('is linear from 0 for times, also where they span much', () => {
    const a = axisOf([row('1', 'starts', 's', [90], [1.5])], 's')
    expect(a.log).toBe(false)
    expect(a.at(0)).toBe(0)
    expect(a.at(45)).toBeCloseTo(45 / (90 * 1.04), 9)
  })
  it.each([
    ['tenfold and no more', [50], [500], false],
    ['more than tenfold', [50], [501], true],
  ])('is logarithmic for rates that span %s', (_, then, now, log) => expect(axisOf([row('1', 'drive', 'MB/s', then, now)], 'MB/s').log).toBe(log))
  it('keeps its ticks apart', () => {
    for (const values of [[97, 11000], [0.08, 80], [1, 2, 3], [3e-4, 9e9]]) {
      const { ticks } = axisOf([row('1', 'drive', 'IOPS', values.slice(0, 1), values.slice(1))], 'IOPS')
      for (let i = 1; i < ticks.length; i++) expect(ticks[i]!.at - ticks[i - 1]!.at).toBeGreaterThanOrEqual(0.15)
    }
  })
  it.each([[[], []], [[0], [0]], [[0], [1000]], [[Number.NaN], [Infinity]], [[1e-300], [1e300]], [[-1], [5]]])('stands with any figures: %j %j', (then, now) => {
    const a = axisOf([row('1', 'drive', 'MB/s', then, now)], 'MB/s')
    for (const v of [...then, ...now, 0, 1]) {
      expect(a.at(v)).toBeGreaterThanOrEqual(0)
      expect(a.at(v)).toBeLessThanOrEqual(1)
    }
    for (const t of a.ticks) expect(t.label).not.toMatch(/NaN|∞|Infinity/)
  })
})

describe('groups', () => {
  it('stand in the order of what is felt, each unit on a scale of its own', () => {
    const groups = groupsOf([row('1', 'drive', 'MB/s', [1], [2]), row('2', 'starts', 's', [9], [3]), row('3', 'drive', 'IOPS', [9], [3]), row('4', 'games', 's', [9], [3])])
    expect(groups.map((g) => [g.title, g.together, g.rows.length])).toEqual([
      ['Starts', 'waiting', 1],
      ['Games', undefined, 1],
      ['The drive', 'drive', 1],
      ['The drive, in IOPS', undefined, 1],
    ])
  })
})

const ledger = {
  then: { setup: 'then' },
  with: { setup: 'now' },
  intended: '',
  simulated: false,
  savings: { words: 'About 9 min less waiting a week.' },
  rows: [
    row('1', 'starts', 's', [90], [15], { indicative: true }),
    row('2', 'starts', 's', [9], [3]),
    row('3', 'drive', 'MB/s', [80], [500], { verdict: 'not-comparable', findings: ['power'] }),
    row('4', 'programs', 's', [3], [2.9], { verdict: 'too-close' }),
    row('5', 'programs', 's', [3], [], { verdict: 'not-measured' }),
    row('6', 'programs', 's', [3], [3], { verdict: 'too-close', equal: true }),
  ],
  findings: [
    { rule: 'fill', effect: 'notes', title: 'Fuller', then: '61 %', with: '31 %', lines: ['1', '2', '3'], runs: [], remedy: '', minutes: 0 },
    { rule: 'other-work', effect: 'qualifies', title: 'Other work', then: '', with: '', lines: ['2'], runs: [], remedy: '', minutes: 0 },
    { rule: 'power', effect: 'blocks', title: 'On battery', then: 'battery', with: 'mains', lines: ['3'], runs: [], remedy: '', minutes: 6 },
    { rule: 'simulated', effect: 'notes', title: 'Simulated', then: '', with: '', lines: ['1'], runs: [], remedy: '', minutes: 0 },
  ],
} as unknown as Ledger

describe('findings', () => {
  const list = findingsOf(ledger)
  it('stand once, what spoils most first', () => expect(list.map((f) => [f.n, f.rule, f.rows.length])).toEqual([[1, 'power', 1], [2, 'other-work', 1], [3, 'fill', 3]]))
  it('stand once where they block one line and qualify another', () => {
    const both = { ...ledger, findings: [...ledger.findings, { ...ledger.findings[2]!, effect: 'qualifies', lines: ['1'], minutes: 9 }] } as Ledger
    const power = findingsOf(both).find((f) => f.rule === 'power')!
    expect([power.effect, power.minutes, [...power.on]]).toEqual(['blocks', 9, [['3', 'blocks'], ['1', 'qualifies']]])
    expect(power.rows.map((r) => r.test.id)).toEqual(['1', '3'])
    expect(effectsOf(findingsOf(both)).get('1')).toContain('qualifies')
  })
  it('leave out the question of the comparison', () => expect(findingsOf({ ...ledger, intended: 'power' }).map((f) => f.rule)).toEqual(['other-work', 'fill']))
  it('count each line once', () => {
    const t = tallyOf(ledger.rows, effectsOf(list))
    expect(t).toEqual({ clean: 1, caveat: 1, single: 1, blocked: 1, undecided: 1, missing: 1 })
    expect(tallyInWords(t)).toBe('1 line clean · 1 line with a caveat · 1 line from a single run · 1 line not comparable · 1 line too close to call · 1 line without a side')
  })
})

describe('what is copied', () => {
  it('says a line', () => expect(lineAsText(ledger.rows[0]!, ['Then', 'Now'])).toBe('Test 1: Then 90 s, Now 15 s · 2.0 times as fast'))
  it('says the ledger with its findings', () => {
    const text = ledgerAsText({ ...ledger, simulated: true }, ['Then', 'Now']).split('\n')
    expect(text[0]).toBe('Simulated: not a real computer.')
    expect(text).toHaveLength(2 + 6 + 4)
    expect(text.at(-2)).toBe('! On battery. Then: battery. Now: mains.')
  })
  it('is a table that no spreadsheet runs', () => {
    const rows = ledgerAsCSV({ ...ledger, rows: [{ ...ledger.rows[2]!, test: { ...ledger.rows[2]!.test, name: '=SUM("a")' } }] }).split('\r\n')
    expect(rows[1]).toBe(`"'=SUM(""a"")","MB/s","80","1","500","1","2","1.5","2.5","not-comparable","true","power"`)
  })
})
