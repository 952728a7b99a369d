import { zodResolver } from '@hookform/resolvers/zod'
import { useForm } from 'react-hook-form'
import { z } from 'zod'
import type { View } from '../api/client'
import type { useAmendJob } from '../intake/queries'
import { Field } from '../ui/Field'
import { defaultSeconds } from './words'

const number = (what: string) =>
  z
    .string()
    .trim()
    .transform((s) => (s === '' ? Number.NaN : Number(s.replace(',', '.'))))
    .refine(Number.isFinite, what)
const schema = z.object({ mib: number('A number of MiB.'), seconds: number('A number of seconds.') })

/** Size sets how large the test file is and how long a run takes, as long as no drive test has run; it is saved when a field is left. */
export function Size({ view, amend }: { view: View; amend: ReturnType<typeof useAmendJob> }) {
  const params = view.job.tests.find((t) => t.params?.stop_half_width && !t.params.existing)?.params
  const before = { mib: (params?.span_bytes ?? 0) / 2 ** 20, seconds: params?.max_seconds || defaultSeconds }
  const { register, handleSubmit, formState } = useForm<z.input<typeof schema>, unknown, z.output<typeof schema>>({
    resolver: zodResolver(schema),
    mode: 'onBlur',
    defaultValues: { mib: String(before.mib), seconds: String(before.seconds) },
  })
  const save = handleSubmit(({ mib, seconds }) => {
    if (mib !== before.mib || seconds !== before.seconds) amend.run({ test_file_bytes: Math.round(mib * 2 ** 20), test_seconds: seconds })
  })
  const refused = amend.error?.refusal.fields
  const left = { onBlur: () => void save() }
  return (
    <>
      <Field className="w-40" label="Test file" unit="MiB" inputMode="numeric" error={formState.errors.mib?.message ?? refused?.test_file_bytes} {...register('mib', left)} />
      <Field className="w-40" label="At most" unit="s a run" inputMode="decimal" error={formState.errors.seconds?.message ?? refused?.test_seconds} {...register('seconds', left)} />
    </>
  )
}
