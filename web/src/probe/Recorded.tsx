import { zodResolver } from '@hookform/resolvers/zod'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import type { Probe, Setup, Test, View } from '../api/client'
import { useTakeStarts } from './queries'
import { lastSitting, runsOf } from '../job/view'
import { CommandButton } from '../ui/CommandButton'
import { figure, time } from '../ui/format'
import { Refusal } from '../ui/parts'

const schema = z.object({ picked: z.array(z.string()).min(1) })

/** Recorded offers the starts that the computer's system recorded by itself as runs. */
export function Recorded({ view, test, setup, probe }: { view: View; test: Test; setup: Setup; probe?: Probe }) {
  const take = useTakeStarts(view.id, probe?.id ?? '')
  const { register, control, handleSubmit, reset } = useForm({ resolver: zodResolver(schema), defaultValues: { picked: [] as string[] } })
  const picked = useWatch({ control, name: 'picked' })
  const sitting = lastSitting(view, setup.id)
  if (!probe) return <p className="text-secondary">The probe reads them: start the probe on this computer first.</p>
  if (!sitting) return <p className="text-secondary">Enter the test conditions first, then import recorded starts.</p>
  const taken = runsOf(view, test.id, setup.id).map((r) => Date.parse(r.at ?? ''))
  // By how much its clock is off is learnt again each time: a little apart is the same start.
  const offered = probe.starts.filter((s) => !taken.some((at) => Math.abs(at - Date.parse(s.at)) < 2000))
  const why = probe.facts.absent.find((a) => a.what === 'recorded starts')?.why
  if (offered.length === 0) return <p className="text-secondary">{taken.length > 0 ? 'All starts recorded with this drive are imported.' : `No recorded start with this drive${why ? `: ${why}` : ''}.`}</p>
  return (
    <form className="flex flex-col gap-2" onSubmit={(e) => void handleSubmit((f) => take.run({ test: test.id, sitting: sitting.id, at: f.picked }, () => reset()))(e)}>
      <p className="font-semibold">Starts that {probe.name} recorded with this drive</p>
      <ul>
        {offered.map((s) => (
          <li key={s.at}>
            <label className="flex min-h-11 cursor-pointer items-center gap-3 border-b border-base-300">
              <input type="checkbox" className="checkbox" value={s.at} {...register('picked')} />
              <strong>{figure(s.seconds, 's')}</strong> <span className="text-secondary">{time(s.at)}</span>
            </label>
          </li>
        ))}
      </ul>
      {take.error && <Refusal error={take.error} />}
      <CommandButton of={take} type="submit" tone="primary" className="self-start" disabled={picked.length === 0}>
        {picked.length === 1 ? 'Import as a run' : `Take ${picked.length} as runs`}
      </CommandButton>
    </form>
  )
}
