import { zodResolver } from '@hookform/resolvers/zod'
import { useForm } from 'react-hook-form'
import { z } from 'zod'
import type { Probe, Setup, Test, View } from '../api/client'
import { useStartRestarts } from './queries'
import { measurePath } from '../job/paths'
import { lastSitting, missingRuns } from '../job/view'
import { CommandButton } from '../ui/CommandButton'
import { useGoOn } from '../ui/goOn'
import { Refusal } from '../ui/parts'

const schema = z.object({ by: z.enum(['probe', 'hand']) })

/** Restarts lets the probe restart its computer and time that, from its last sign to its first after the start. */
export function Restarts({ view, test, setup, probe }: { view: View; test: Test; setup: Setup; probe?: Probe }) {
  const start = useStartRestarts(view.id)
  const goOn = useGoOn()
  const { register, handleSubmit } = useForm<z.infer<typeof schema>>({ resolver: zodResolver(schema), defaultValues: { by: 'probe' } })
  const sitting = lastSitting(view, setup.id)
  const runs = Math.max(1, missingRuns(view, test, setup.id))
  if (!probe) return <p className="text-secondary">The probe times it: start the probe on this computer first.</p>
  if (!sitting) return <p className="text-secondary">Enter the test conditions first. Then the probe can restart the computer.</p>
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(e) => void handleSubmit(({ by }) => start.run({ test: test.id, sitting: sitting.id, probe: probe.id, by_hand: by === 'hand' }, goOn(() => measurePath(view.id, setup.id))))(e)}
    >
      <p className="font-semibold">Restart {probe.name} and time it</p>
      <fieldset className="flex flex-col gap-1">
        <legend className="sr-only">Who restarts it</legend>
        <label className="flex min-h-11 items-center gap-2">
          <input type="radio" className="radio" value="probe" {...register('by')} />
          The probe restarts it: save what is open first
        </label>
        <label className="flex min-h-11 items-center gap-2">
          <input type="radio" className="radio" value="hand" {...register('by')} />
          I restart it myself each time
        </label>
      </fieldset>
      <p className="text-sm text-secondary">
        The probe adds itself to the start-up programs for one start at a time, then removes itself. As administrator it reports before anyone signs in; otherwise after the sign-in, so set up automatic sign-in or measure both
        sides the same way.
      </p>
      {start.error && <Refusal error={start.error} />}
      <CommandButton of={start} type="submit" tone="primary" className="self-start">
        {runs === 1 ? 'Restart it once' : `Restart it ${runs} times`}
      </CommandButton>
    </form>
  )
}
