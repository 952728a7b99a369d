import { Download } from 'lucide-react'
import { useState } from 'react'

/** Save is a button that saves something that this page makes as a file. */
export function Save({ name, of, children }: { name: string; of: () => Blob | Promise<Blob>; children: string }) {
  const [failed, setFailed] = useState(false)
  const save = async () => {
    const url = URL.createObjectURL(await of())
    const a = document.createElement('a')
    a.href = url
    a.download = name
    a.click()
    setTimeout(() => URL.revokeObjectURL(url), 60_000) // once the browser has begun to save it
  }
  return (
    <button type="button" className="btn btn-sm" onClick={() => void save().catch(() => setFailed(true))}>
      <Download size={16} aria-hidden /> <span aria-live="polite">{failed ? 'This browser cannot make it' : children}</span>
    </button>
  )
}
