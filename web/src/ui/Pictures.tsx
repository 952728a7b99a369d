import { Camera } from 'lucide-react'
import type { Schemas } from '../api/client'
import { useAddPicture } from '../job/queries'
import { FileButton } from './FileButton'
import { Refusal } from './parts'

/** Pictures are the photos of a session or a run, with a button for another one. */
export function Pictures({ job, of, photos = [], label }: { job: string; of: { sitting: string } | { run: string }; photos?: Schemas['Photo'][]; label: string }) {
  const add = useAddPicture(job)
  return (
    <span className="inline-flex flex-wrap items-center gap-2">
      {photos.map((p) => (
        <a key={p.id} href={`/api/jobs/${job}/photos/${p.id}`} target="_blank" rel="noreferrer">
          <img src={`/api/jobs/${job}/photos/${p.id}?size=thumbnail`} loading="lazy" alt={p.name || 'Photo'} className="inline h-8 rounded-sm" />
        </a>
      ))}
      <FileButton className="btn-ghost btn-sm btn-square" label={`Attach a photo to ${label}`} accept="image/*" onFile={(file) => add.run({ ...of, file })}>
        <Camera size={16} aria-hidden />
      </FileButton>
      {add.error && <Refusal error={add.error} />}
    </span>
  )
}
