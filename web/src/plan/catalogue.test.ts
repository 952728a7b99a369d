import { describe, expect, it } from 'vitest'
import type { Entry } from '../api/client'
import { minutes } from '../ui/format'
import { found, takes } from './catalogue'

const entry = (name: string, group: string, more: Partial<Entry> = {}): Entry => ({
  test: { id: name, kind: 'timed', name, unit: 's', better: 'lower' }, group, hands: 0, wait: 0, write_bytes: 0, needs: [], best: 'by-hand', shows: '', ...more,
})

describe('the catalogue', () => {
  const list = [entry('Cold start to desktop', 'starts'), entry('Game: load a save', 'games', { needs: ['a save that is named'] }), entry('Long read', 'drive')]
  const names = (q: string) => found(list, q, { games: 'Games', starts: 'Starts', drive: 'The drive' }).map((e) => e.test.name)
  it('is searched by every word, in name, group and what is needed', () => {
    expect(names('')).toHaveLength(3)
    expect(names('START cold')).toEqual(['Cold start to desktop'])
    expect(names('games named')).toEqual(['Game: load a save'])
    expect(names('games read')).toEqual([])
  })
  it('says what a run takes', () => {
    expect(takes(entry('a', 'starts', { hands: 4 }), minutes)).toBe('About 4 min of your time per run.')
    expect(takes(entry('b', 'files', { hands: 1, wait: 10 }), minutes)).toBe('About 1 min of your time, 10 min unattended per run.')
    expect(takes(entry('c', 'drive'), minutes)).toBe('')
  })
})
