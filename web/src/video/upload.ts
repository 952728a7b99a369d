import { client, data, type Refused, type Schemas } from '../api/client'

export type Clip = Schemas['Clip']

/** piece is how much of a clip is sent at once, bytes. */
const piece = 8 * 2 ** 20

/** How often a piece is tried before the upload waits for the technician. */
const tries = 5

/** typeOf is the type that a clip is taken as: by its name, because systems call the same kind differently, or not at all. */
export function typeOf(file: Pick<File, 'name' | 'type'>): string {
  const end = file.name.toLowerCase().split('.').at(-1)
  return { mp4: 'video/mp4', m4v: 'video/mp4', webm: 'video/webm', mov: 'video/quicktime' }[end ?? ''] ?? (file.type || 'application/octet-stream')
}

/** upload sends a clip piece by piece; one that broke off goes on from where it was. */
export async function upload(job: string, file: File, tell: (share: number) => void): Promise<Clip> {
  let clip = await data(client.POST('/api/jobs/{job}/clips', { params: { path: { job } }, body: { name: file.name, type: typeOf(file), bytes: file.size } }))
  for (let failed = 0; clip.received < clip.bytes; ) {
    tell(clip.received / clip.bytes)
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
    } catch (e) {
      if ((e as Refused).status !== 0 || ++failed >= tries) throw e
      await new Promise((done) => setTimeout(done, 500 * 2 ** failed))
    }
  }
  tell(1)
  return clip
}
