/** The most that a logo is drawn, px: as large as the bench keeps it. */
const most = { width: 600, height: 240 }

/**
 * drawn is a picture (PNG, or SVG) as PNG in base64. The browser draws it as a picture, in which no script runs and nothing is
 * fetched: what is kept of an SVG is what it looks like.
 */
export async function drawn(file: Blob): Promise<string> {
  const url = URL.createObjectURL(file)
  try {
    const image = new Image()
    image.src = url
    await image.decode()
    const shrink = Math.min(1, most.width / image.naturalWidth, most.height / image.naturalHeight)
    const canvas = document.createElement('canvas')
    canvas.width = Math.max(1, Math.round(image.naturalWidth * shrink))
    canvas.height = Math.max(1, Math.round(image.naturalHeight * shrink))
    canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
    return canvas.toDataURL('image/png').split(',')[1]!
  } finally {
    URL.revokeObjectURL(url)
  }
}
