import { useId } from 'react'

type Option<T> = { value: T; label: string }

/** Choice is one of a few, all in sight: quicker with one hand than a list that folds. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  error,
}: {
  label: string
  value: T | undefined
  options: Option<T>[]
  onChange: (value: T) => void
  error?: string
}) {
  const id = useId()
  return (
    <fieldset aria-describedby={error ? `${id}-error` : undefined}>
      <legend className="mb-1 text-sm font-semibold">{label}</legend>
      <div className="flex flex-wrap gap-1.5">
        {options.map((o) => (
          <label key={o.value} className={`btn btn-sm h-10 ${value === o.value ? 'btn-primary' : ''} has-focus-visible:outline-3`}>
            <input type="radio" name={id} className="sr-only" checked={value === o.value} onChange={() => onChange(o.value)} />
            {o.label}
          </label>
        ))}
      </div>
      {error && (
        <p id={`${id}-error`} className="mt-1 text-sm text-error">
          {error}
        </p>
      )}
    </fieldset>
  )
}
