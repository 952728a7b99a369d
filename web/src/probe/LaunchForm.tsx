import { zodResolver } from '@hookform/resolvers/zod'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { Probe, Setup, Test, View } from '../api/client'
import { useStartLaunches } from './queries'
import { measurePath } from '../job/paths'
import { lastSitting, missingRuns } from '../job/view'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { useGoOn } from '../ui/goOn'
import { Refusal } from '../ui/parts'
import { argumentsOf, lineOf } from './arguments'

/** signs say by what a program is ready, and what has to be said with it. */
const signs = {
  window: { label: 'its first window', of: '' },
  'window:': { label: 'a window with this in its title', of: 'Title' },
  quiet: { label: 'when it has become quiet', of: '' },
  exit: { label: 'when it ends', of: '' },
  'line:': { label: 'a line of its output', of: 'Text in the line' },
  'file:': { label: 'a file that appears', of: 'Path of the file' },
  'port:': { label: 'a port that answers', of: 'Port' },
}
type Kind = keyof typeof signs

const schema = z
  .object({ program: z.string().trim().min(1, 'Enter the program.'), args: z.string(), kind: z.enum(Object.keys(signs) as [Kind, ...Kind[]]), of: z.string(), cold: z.boolean() })
  .refine((f) => signs[f.kind].of === '' || f.of.trim() !== '', { path: ['of'], message: 'Required.' })

/** partsOf takes a sign apart into what the form asks. */
function partsOf(until: string): { kind: Kind; of: string } {
  const at = until.indexOf(':')
  if (at < 0) return { kind: (until || 'window') as Kind, of: '' }
  return { kind: until.slice(0, at + 1) as Kind, of: until.slice(at + 1) }
}

/** LaunchForm lets the probe start a program and time it until its sign, as on the other side. */
export function LaunchForm({ view, test, setup, probe }: { view: View; test: Test; setup: Setup; probe: Probe }) {
  const start = useStartLaunches(view.id)
  const goOn = useGoOn()
  const sitting = lastSitting(view, setup.id)
  const form = useForm({
    resolver: zodResolver(schema),
    defaultValues: { program: test.launch?.program ?? '', args: lineOf(test.launch?.args), ...partsOf(test.launch?.until ?? ''), cold: test.launch?.cold ?? false },
  })
  const { register, handleSubmit, control, formState } = form
  const of = signs[useWatch({ control, name: 'kind' })].of
  const runs = Math.max(1, missingRuns(view, test, setup.id))
  if (!sitting) return <p className="text-secondary">Enter the test conditions first. Then the probe can launch it.</p>
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(e) =>
        void handleSubmit((f) =>
          start.run({ test: test.id, sitting: sitting.id, probe: probe.id, program: f.program, args: argumentsOf(f.args), until: f.kind + (of ? f.of.trim() : ''), cold: f.cold }, goOn(() => measurePath(view.id, setup.id))),
        )(e)
      }
    >
      <p className="font-semibold">Launch it with the probe, on {probe.name}</p>
      <div className="flex flex-wrap items-end gap-3">
        <Field className="w-80 max-w-full" label="Program" spellCheck={false} error={formState.errors.program?.message ?? start.error?.refusal.fields?.program} {...register('program')} />
        <Field className="w-64 max-w-full" label="Arguments" spellCheck={false} error={start.error?.refusal.fields?.args} {...register('args')} />
        <label className="flex flex-col gap-1">
          <span className="font-semibold">Ready at</span>
          <select className="select w-64" {...register('kind')}>
            {Object.entries(signs).map(([kind, s]) => (
              <option key={kind} value={kind}>
                {s.label}
              </option>
            ))}
          </select>
        </label>
        {of && <Field className="w-52" label={of} spellCheck={false} error={formState.errors.of?.message ?? start.error?.refusal.fields?.until} {...register('of')} />}
      </div>
      <label className="flex items-center gap-2">
        <input type="checkbox" className="checkbox" {...register('cold')} />
        Cold: drop its files from memory before each launch (Linux, with administrator rights or its own files)
      </label>
      {start.error && <Refusal error={start.error} />}
      <CommandButton of={start} type="submit" tone="primary" className="self-start">
        {runs === 1 ? 'Launch it once' : `Launch it ${runs} times`}
      </CommandButton>
    </form>
  )
}
