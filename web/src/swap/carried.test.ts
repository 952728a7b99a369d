import { describe, expect, it } from 'vitest'
import { carriedInWords, comparisonFrom, folderAgain, lists } from './carried'

const none = { files: 212406, bytes: 1, unchanged: 212406, missing: 0, changed: 0, new: 0, unreadable_before: 0, unreadable_now: 0 }

describe('what came across', () => {
  it.each([
    [none, '212,406 files: all came across unchanged.'],
    [{ ...none, unreadable_before: 14 }, '212,406 files: all came across unchanged. 14 could not be read on the old drive already.'],
    [{ ...none, unchanged: 212400, missing: 5, unreadable_now: 1 }, '212,406 files: 212,400 unchanged, 5 missing, 1 unreadable now.'],
  ])('is said: %j', (c, want) => expect(carriedInWords(c)).toBe(want))
  it.each(['', '[]', 'null', '{"files": 1}', '{"format": "nowthen-job"}'])('is refused where it is something else: %s', (text) => expect(() => comparisonFrom(text)).toThrow(/Import what nowthen-probe/))
  it('lists what is worst first, and nothing that is not there', () => {
    const d = comparisonFrom('{"files": 3, "bytes": 1, "unchanged": 1, "new": ["n"], "missing": ["m"], "counts": {"missing": 1200, "new": 1}}')
    expect(lists(d).map((l) => [l.title, l.count, l.paths])).toEqual([['Missing', 1200, ['m']], ['New', 1, ['n']]])
  })
})

it.each([
  ['/home', ''],
  ['C:\\Users', ''],
  ['/mnt/old/Users', ''],
  ['Users', ''],
  ['D:\\', ''],
  ['/', ''],
  ['/home/otti/letters', '/home/otti/letters'],
  ['/mnt/Not Users', '/mnt/Not Users'],
])('compares a list of %s with %j', (listed, want) => expect(folderAgain(listed)).toBe(want))
