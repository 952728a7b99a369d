import { describe, expect, it } from 'vitest'
import { argumentsOf, lineOf } from './arguments'

describe('arguments', () => {
  it.each([
    ['', []],
    ['  --open  file.txt ', ['--open', 'file.txt']],
    ['"a file.txt" -x', ['a file.txt', '-x']],
    [`'say "so"' b`, ['say "so"', 'b']],
    ['"" x', ['', 'x']],
  ])('splits %s', (line, want) => expect(argumentsOf(line)).toEqual(want))

  it.each([[['--open', 'a file.txt']], [['say "so"']], [['']], [[]]])('writes %j so that it is read again', (args) => expect(argumentsOf(lineOf(args))).toEqual(args))
})
