import { Camera, Plus } from 'lucide-react'
import { useRef, useState } from 'react'
import type { View, VisitStep } from '../api/client'
import { useAddPhoto, useAddStep, useDropStep, useTick } from './queries'
import { time } from '../ui/format'
import { OneField } from '../ui/OneField'
import { Refusal } from '../ui/parts'
import { technician } from '../ui/technician'

const titles = { then: 'Before measuring', prepare: 'Before the old drive comes out', swap: 'Steps', now: 'With the new drive', back: 'Before it goes back' }

/** StepList is the checklist of one station; a step that stands elsewhere on the page is left out. */
export function StepList({ view, when, without }: { view: View; when: keyof typeof titles; without?: string }) {
  const tick = useTick(view.id)
  const drop = useDropStep(view.id)
  const photo = useAddPhoto(view.id)
  const add = useAddStep(view.id)
  const [by, setBy] = useState(technician.get)
  const [changing, setChanging] = useState(false)
  const steps = (view.job.plan.steps ?? []).filter((s) => (s.when ?? 'then') === when && s.id !== without)
  const error = tick.error ?? drop.error ?? photo.error ?? add.error
  return (
    <section aria-labelledby={`steps-${when}`}>
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 id={`steps-${when}`} className="text-xl font-bold">
          {titles[when]}
        </h2>
        <label className="text-sm text-secondary">
          ticked by{' '}
          <input
            className="w-28 border-b border-secondary bg-transparent text-base-content"
            aria-label="Who ticks"
            placeholder="name"
            maxLength={60}
            value={by}
            onChange={(e) => {
              setBy(e.target.value)
              technician.set(e.target.value)
            }}
          />
        </label>
        <button type="button" className="link ml-auto text-sm" aria-expanded={changing} onClick={() => setChanging(!changing)}>
          {changing ? 'Done with the steps' : 'Change the steps'}
        </button>
      </div>
      <ul>
        {steps.map((step) => (
          <StepLine
            key={step.id}
            job={view.id}
            step={step}
            onTick={(done) => tick.run({ step: step.id, done, by })}
            onDrop={changing ? () => drop.run(step.id) : undefined}
            onPhoto={(file) => photo.run({ step: step.id, file })}
          />
        ))}
      </ul>
      {steps.length === 0 && <p className="text-secondary">No steps here.</p>}
      {error && <Refusal error={error} />}
      {changing && (
        <OneField
          className="pt-3"
          label="Another step"
          placeholder="Another step"
          verb={<Plus size={16} aria-hidden />}
          verbLabel="Add the step"
          tone="plain"
          large
          of={add}
          onDone={(text, clear) => add.run({ text, when }, clear)}
        />
      )}
    </section>
  )
}

function StepLine({
  job,
  step,
  onTick,
  onDrop,
  onPhoto,
}: {
  job: string
  step: VisitStep
  onTick: (done: boolean) => void
  /** onDrop: only while the list is being changed. */
  onDrop?: () => void
  onPhoto: (file: File) => void
}) {
  const file = useRef<HTMLInputElement>(null)
  return (
    <li className="border-b border-base-300">
      <div className="flex items-center gap-3">
        <label className="flex min-h-11 flex-1 cursor-pointer items-center gap-3">
          <input type="checkbox" className="checkbox" checked={Boolean(step.done)} onChange={(e) => onTick(e.target.checked)} />
          <span className={step.done ? 'text-secondary' : ''}>{step.text}</span>
        </label>
        {step.done && (
          <span className="text-sm text-secondary">
            {time(step.done.at)}
            {step.done.by ? `, ${step.done.by}` : step.fact ? ', detected' : ''}
          </span>
        )}
        {onDrop && !step.done && !step.photos?.length && (
          <button type="button" className="link text-sm text-secondary" aria-label={`Remove the step ${step.text}`} onClick={onDrop}>
            Remove
          </button>
        )}
        <button type="button" className="btn btn-ghost btn-square" aria-label={`Attach a photo to ${step.text}`} onClick={() => file.current?.click()}>
          <Camera size={16} aria-hidden />
        </button>
        <input
          ref={file}
          type="file"
          accept="image/jpeg,image/png,image/webp"
          className="hidden"
          aria-label={`Photo of ${step.text}`}
          onChange={(e) => {
            const chosen = e.target.files?.[0]
            e.target.value = ''
            if (chosen) onPhoto(chosen)
          }}
        />
      </div>
      {(step.photos?.length ?? 0) > 0 && (
        <div className="flex flex-wrap gap-2 py-1 pl-9">
          {step.photos!.map((p) => (
            <a key={p.id} href={`/api/jobs/${job}/photos/${p.id}`} target="_blank" rel="noreferrer">
              <img className="h-20 rounded-sm border border-base-300" src={`/api/jobs/${job}/photos/${p.id}?size=thumbnail`} loading="lazy" alt={`${step.text}: ${p.name || 'photo'}`} />
            </a>
          ))}
        </div>
      )}
    </li>
  )
}
