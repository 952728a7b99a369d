import { useState } from 'react'
import type { View } from '../api/client'
import type { useAmendJob } from '../api/queries'
import { Field } from '../ui/Field'
import { defaultSeconds } from './words'

/** Size sets how large the test file is and how long a run takes, as long as no drive test has run. */
export function Size({ view, amend }: { view: View; amend: ReturnType<typeof useAmendJob> }) {
  const params = view.job.tests.find((t) => t.params?.stop_half_width && !t.params.existing)?.params
  const [mib, setMiB] = useState(String((params?.span_bytes ?? 0) / 2 ** 20))
  const [seconds, setSeconds] = useState(String(params?.max_seconds || defaultSeconds))
  const number = (s: string) => Number(s.trim().replace(',', '.'))
  const save = () => {
    const change = { test_file_bytes: Math.round(number(mib) * 2 ** 20), test_seconds: number(seconds) }
    if (!Number.isFinite(change.test_file_bytes) || !Number.isFinite(change.test_seconds)) return
    if (change.test_file_bytes !== params?.span_bytes || change.test_seconds !== (params?.max_seconds || defaultSeconds)) amend.run(change)
  }
  const fields = amend.error?.refusal.fields
  return (
    <>
      <Field
        className="w-40"
        label="Test file"
        unit="MiB"
        inputMode="numeric"
        value={mib}
        error={Number.isFinite(number(mib)) ? fields?.test_file_bytes : 'A number of MiB.'}
        onChange={(e) => setMiB(e.target.value)}
        onBlur={save}
      />
      <Field
        className="w-40"
        label="At most"
        unit="s a run"
        inputMode="decimal"
        value={seconds}
        error={Number.isFinite(number(seconds)) ? fields?.test_seconds : 'A number of seconds.'}
        onChange={(e) => setSeconds(e.target.value)}
        onBlur={save}
      />
    </>
  )
}
