import { useRef, useState } from 'react'
import { drawn } from './drawn'

/** Logo is the shop's logo, with what changes it. */
export function Logo({ value, error, onChange }: { value: string; error?: string; onChange: (logo: string) => void }) {
  const pick = useRef<HTMLInputElement>(null)
  const [failed, setFailed] = useState(false)
  const take = async (file: File | undefined) => {
    if (!file) return
    setFailed(false)
    try {
      onChange(await drawn(file))
    } catch {
      setFailed(true)
    }
  }
  return (
    <div>
      <p className="mb-1 text-sm font-semibold">Logo</p>
      <div className="flex flex-wrap items-center gap-2">
        {value ? <img className="max-h-16 max-w-56 bg-white p-1" src={`data:image/png;base64,${value}`} alt="The shop’s logo" /> : <span className="text-secondary">none</span>}
        <input ref={pick} type="file" accept="image/png,image/svg+xml" className="sr-only" tabIndex={-1} aria-label="Logo file" onChange={(e) => void take(e.target.files?.[0])} />
        <button type="button" className="btn btn-sm" onClick={() => pick.current?.click()}>
          {value ? 'Change' : 'Add'}
        </button>
        {value && (
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => onChange('')}>
            Remove
          </button>
        )}
      </div>
      {(failed || error) && <p className="mt-1 text-sm text-error">{error ?? 'That file can’t be shown. Use a PNG or SVG picture.'}</p>}
    </div>
  )
}
