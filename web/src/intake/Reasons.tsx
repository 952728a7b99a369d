import type { Schemas } from '../api/client'

export type Reason = Schemas['Reason']

/** reasonLabels are the short list of why a computer comes in. */
export const reasonLabels: Record<Reason['what'], string> = {
  'slow-start': 'Slow to start',
  'slow-programs': 'Programs are slow',
  'slow-games': 'Games load slowly',
  full: 'The drive is full',
  noise: 'Noisy',
  heat: 'Runs hot',
  crashes: 'Crashes or hangs',
  failing: 'The drive is failing',
  other: 'Something else',
}

/** Reasons picks why the computer comes in, as many as there are. */
export function Reasons({ value, onChange }: { value: Reason[]; onChange: (list: Reason[]) => void }) {
  const toggle = (what: Reason['what']) => onChange(value.some((r) => r.what === what) ? value.filter((r) => r.what !== what) : [...value, { what }])
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-semibold">Why it comes in</legend>
      <div className="flex flex-wrap gap-1.5">
        {Object.entries(reasonLabels).map(([what, label]) => {
          const on = value.some((r) => r.what === what)
          return (
            <label key={what} className={`btn btn-sm h-11 ${on ? 'btn-primary' : ''} has-focus-visible:outline-3`}>
              <input type="checkbox" className="sr-only" checked={on} onChange={() => toggle(what as Reason['what'])} />
              {label}
            </label>
          )
        })}
      </div>
    </fieldset>
  )
}
