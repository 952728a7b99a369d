import type { InputHTMLAttributes } from 'react'
import { useId } from 'react'

type Props = InputHTMLAttributes<HTMLInputElement> & {
  label: string
  unit?: string
  error?: string
  hint?: string
  /** bare: the label is for those who cannot see where the field stands. */
  bare?: boolean
}

/** Field is a labelled input with its unit and what is wrong with it. */
export function Field({ label, unit, error, hint, bare, className, ...input }: Props) {
  const id = useId()
  return (
    <div className={className}>
      <label htmlFor={id} className={bare ? 'sr-only' : 'mb-1 block text-sm font-semibold'}>
        {label}
      </label>
      <div className={`input w-full ${error ? 'input-error' : ''}`}>
        <input id={id} aria-invalid={Boolean(error)} aria-describedby={error || hint ? `${id}-more` : undefined} {...input} />
        {unit && <span className="text-secondary">{unit}</span>}
      </div>
      {(error ?? hint) && (
        <p id={`${id}-more`} className={`mt-1 text-sm ${error ? 'text-error' : 'text-secondary'}`}>
          {error ?? hint}
        </p>
      )}
    </div>
  )
}
