import type { Ledger } from '../api/client'
import type { Group } from './axis'
import { ledgerAsCSV, ledgerAsText } from './copy'
import { CopyButton } from './OpenLine'
import { ledgerAsSVG } from './picture'
import { Save } from '../ui/Save'

/** Copies copies the whole ledger: as text for a message, as a table, as a picture. */
export function Copies({ ledger, groups, names, number }: { ledger: Ledger; groups: Group[]; names: [string, string]; number: string }) {
  if (ledger.rows.length === 0) return null
  const svg = () => ledgerAsSVG(ledger, groups, names, number)
  return (
    <p className="flex flex-wrap gap-2 pt-6">
      <CopyButton text={() => ledgerAsText(ledger, names)}>Copy as text</CopyButton>
      <Save name={`ledger-${number}.csv`} of={() => new Blob([ledgerAsCSV(ledger)], { type: 'text/csv' })}>
        Save CSV
      </Save>
      <Save name={`ledger-${number}.svg`} of={() => new Blob([svg()], { type: 'image/svg+xml' })}>
        Save SVG
      </Save>
      <Save name={`ledger-${number}.png`} of={() => asPNG(svg())}>
        Save PNG
      </Save>
    </p>
  )
}

/** asPNG draws a picture at twice its size, so that it stays sharp. */
async function asPNG(svg: string): Promise<Blob> {
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = image.naturalWidth * 2
  canvas.height = image.naturalHeight * 2
  canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
  return new Promise((done, fail) => canvas.toBlob((b) => (b ? done(b) : fail(new Error('no picture'))), 'image/png'))
}
