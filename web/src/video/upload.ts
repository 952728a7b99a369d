import { client, data, type Refused, type Schemas } from '../api/client'

export type Clip = Schemas['Clip']

/** How much of a clip is sent at once, bytes, and about how long that should take, ms: on a slow line the pieces are small. */
export const pieces = { first: 2 ** 20, least: 2 ** 16, most: 8 * 2 ** 20, takes: 4000 }

/** nextPiece is how large the next piece is after one of so many bytes that took so long, ms; a piece that broke off took no time that says anything. */
export function nextPiece(bytes: number, took: number | undefined): number {
  const want = took === undefined ? bytes / 4 : (bytes * pieces.takes) / Math.max(took, 1)
  return Math.round(Math.min(pieces.most, Math.max(pieces.least, Math.min(want, bytes * 4))))
}

/** How often a piece is tried before the upload waits for the technician. */
const tries = 5

/** typeOf is the type that a clip is taken as: by its name, because systems call the same kind differently, or not at all. */
export function typeOf(file: Pick<File, 'name' | 'type'>): string {
  const end = file.name.toLowerCase().split('.').at(-1)
  return { mp4: 'video/mp4', m4v: 'video/mp4', webm: 'video/webm', mov: 'video/quicktime' }[end ?? ''] ?? (file.type || 'application/octet-stream')
}

/** upload sends a clip piece by piece; one that broke off resumes from where it was. */
export async function upload(job: string, file: File, tell: (share: number) => void): Promise<Clip> {
  let clip = await data(client.POST('/api/jobs/{job}/clips', { params: { path: { job } }, body: { name: file.name, type: typeOf(file), bytes: file.size } }))
  for (let failed = 0, piece = pieces.first; clip.received < clip.bytes; ) {
    tell(clip.received / clip.bytes)
    const began = performance.now()
    try {
      clip = await data(
        client.PUT('/api/jobs/{job}/clips/{clip}/bytes', {
          params: { path: { job, clip: clip.id }, query: { offset: clip.received } },
          body: file.slice(clip.received, clip.received + piece) as unknown as string,
          bodySerializer: (body: unknown) => body as BodyInit,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      )
      failed = 0
      piece = nextPiece(piece, performance.now() - began)
    } catch (e) {
      piece = nextPiece(piece, undefined)
      if ((e as Refused).status !== 0 || ++failed >= tries) throw e
      await new Promise((done) => setTimeout(done, 500 * 2 ** failed))
    }
  }
  tell(1)
  return clip
}
