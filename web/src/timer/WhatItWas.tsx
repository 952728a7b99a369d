import { useWatch, type UseFormReturn } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas, Setup, Test, View } from '../api/client'
import { driveName, reasonAside, runsOf } from '../job/view'
import { Field } from '../ui/Field'
import { size } from '../ui/size'

export type Was = Pick<Schemas['Keeping'], 'warmth' | 'start_kind' | 'app_version' | 'content' | 'since_start' | 'on' | 'bytes' | 'files'>

const whole = (v: string | number | undefined) => (v === undefined || v === '' ? undefined : Number(v))

const text = z.string().trim().max(200, 'Enter at most 200 characters.').optional()

/** wasSchema is what may be noted of a run. */
export const wasSchema = z.object({
  warmth: z.enum(['', 'cold', 'warm']).optional(),
  start_kind: z.enum(['', 'cold', 'resume-assisted']).optional(),
  app_version: text,
  content: text,
  since_start: z.number('A whole number, such as 2.').int('A whole number, such as 2.').min(1, 'A whole number, such as 2.').max(1000, 'Enter a smaller number.').optional(),
  on: z.string().optional(),
  bytes: z.number('An amount with its unit, such as 4.2 GB.').optional(),
  files: z.number('A whole number, such as 1200.').int('A whole number, such as 1200.').min(0, 'A whole number, such as 1200.').optional(),
})

/** before is what the last run of the test was: the same save, the same version, once more since the start. */
export function before(view: View, test: Test, setup: Setup): Was {
  const all = view.job.setups.flatMap((s) => runsOf(view, test.id, s.id)).filter((r) => reasonAside(r) === undefined)
  const here = runsOf(view, test.id, setup.id).at(-1)
  const last = here ?? all.at(-1)
  return {
    warmth: (test.warmth as Was['warmth']) ?? '',
    start_kind: (test.start_kind as Was['start_kind']) ?? '',
    app_version: last?.app_version ?? '',
    content: last?.content_digest ?? '',
    on: last?.on ?? '',
    since_start: here?.since_start ? here.since_start + 1 : undefined,
  }
}

/** WhatItWas notes what a run was, so that like is compared with like. */
export function WhatItWas({ view, setup, test, form }: { view: View; setup: Setup; test: Test; form: UseFormReturn<Was> }) {
  const { register, setValue, control, formState } = form
  const wrong = formState.errors
  const was = useWatch({ control })
  const others = setup.also ?? []
  const on = others.find((a) => a.drive === was.on)
  const start = test.start_kind !== undefined
  return (
    <details className="w-full max-w-3xl text-left" open={Object.keys(wrong).length > 0 || undefined}>
      <summary className="cursor-pointer text-center text-secondary">
        What this run was: {[start ? was.start_kind : was.warmth, was.app_version && `version ${was.app_version}`, was.content, on && `on the ${driveName(view.job.drives.find((d) => d.id === on.drive))}`].filter(Boolean).join(', ') || 'nothing noted'}
      </summary>
      <div className="mt-3 flex flex-wrap items-end gap-3">
        {start ? (
          <Pick label="Kind of start" value={was.start_kind ?? ''} options={{ cold: 'cold start', 'resume-assisted': 'resume-assisted' }} onChange={(v) => setValue('start_kind', v as Was['start_kind'])} />
        ) : (
          <Pick label="Cold or warm" value={was.warmth ?? ''} options={{ cold: 'cold', warm: 'warm' }} onChange={(v) => setValue('warmth', v as Was['warmth'])} />
        )}
        <Field className="w-36" label="Version" maxLength={200} error={wrong.app_version?.message} {...register('app_version')} />
        <Field className="min-w-48 flex-1" label="Which save or document" maxLength={200} error={wrong.content?.message} {...register('content')} />
        {!start && others.length > 0 && (
          <label className="text-sm font-semibold">
            Where it lies
            <select className="select mt-1 flex w-64" {...register('on')}>
              <option value="">on the drive under test</option>
              {others.map((a) => (
                <option key={a.drive} value={a.drive}>
                  on the {driveName(view.job.drives.find((d) => d.id === a.drive))}
                  {a.holds ? ` (${a.holds})` : ''}
                </option>
              ))}
            </select>
          </label>
        )}
        {(test.kind === 'file' || test.occasion === 'copy') && (
          <>
            <Field
              className="w-40"
              label="How much was copied"
              placeholder="4.2 GB"
              error={wrong.bytes?.message}
              {...register('bytes', { setValueAs: (v: string | number | undefined) => (typeof v === 'number' || v === undefined || v.trim() === '' ? v || undefined : (size(v) ?? NaN)) })}
            />
            <Field className="w-40" label="How many files" placeholder="1200" inputMode="numeric" error={wrong.files?.message} {...register('files', { setValueAs: whole })} />
          </>
        )}
        {!start && (
          <Field
            className="w-40"
            label="Time since start"
            placeholder="1st, 2nd …"
            inputMode="numeric"
            error={wrong.since_start?.message}
            {...register('since_start', { setValueAs: whole })}
          />
        )}
      </div>
    </details>
  )
}

function Pick({ label, value, options, onChange }: { label: string; value: string; options: Record<string, string>; onChange: (v: string) => void }) {
  return (
    <div className="join" role="group" aria-label={label}>
      {Object.entries(options).map(([id, name]) => (
        <button key={id} type="button" aria-pressed={value === id} className={`btn join-item ${value === id ? 'btn-primary' : ''}`} onClick={() => onChange(id)}>
          {name}
        </button>
      ))}
    </div>
  )
}
