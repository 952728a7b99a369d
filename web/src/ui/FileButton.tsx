import type { ReactNode } from 'react'

/** FileButton lets a file be picked, by pointer or keyboard; the same one can be picked again. */
export function FileButton({ label, accept, className = '', onFile, children }: { label: string; accept: string; className?: string; onFile: (file: File) => void; children: ReactNode }) {
  return (
    <label className={`btn btn-sm has-focus-visible:outline-3 ${className}`}>
      {children}
      <input
        type="file"
        accept={accept}
        className="sr-only"
        aria-label={label}
        onChange={(e) => {
          const chosen = e.target.files?.[0]
          e.target.value = ''
          if (chosen) onFile(chosen)
        }}
      />
    </label>
  )
}
