import { expect, it } from 'vitest'
import { heldFrom } from './held'

it('reads what the probe printed', () => {
  const r = { file_bytes: 900, written_bytes: 40, whole: false, blocks: 4, lost: 0, overlaid: 0, missed: 0.01 }
  expect(heldFrom(JSON.stringify(r))).toEqual(r)
})
it.each(['', 'no', 'null', '[]', '{"files":3}', '{"blocks":"4","missed":0,"written_bytes":1}'])('refuses %s', (text) => expect(() => heldFrom(text)).toThrow('nowthen-probe capacity'))
