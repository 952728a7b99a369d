import { expect, it } from 'vitest'
import { foundFrom } from './held'

it('reads what the probe printed', () => {
  const held = { file_bytes: 900, written_bytes: 40, whole: false, blocks: 4, lost: 0, overlaid: 0, missed: 0.01 }
  expect(foundFrom(JSON.stringify(held))).toEqual({ held })
  const sustained = { id: '01', parts: [{ seconds: 60, bytes: 9, mb_s: 480 }] }
  expect(foundFrom(JSON.stringify(sustained))).toEqual({ sustained })
})
it.each(['', 'no', 'null', '[]', '{"files":3}', '{"blocks":"4","missed":0,"written_bytes":1}', '{"parts":3}'])('refuses %s', (text) => expect(() => foundFrom(text)).toThrow('nowthen-probe capacity or sustain'))
