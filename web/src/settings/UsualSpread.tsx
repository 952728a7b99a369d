import type { Schemas } from '../api/client'
import { useLearn } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { time } from '../ui/format'
import { Refusal } from '../ui/parts'

type Kind = Schemas['Usual']['kinds'][number]

const names: Record<Kind['kind'], string> = { timed: 'Timed, by hand or automatically', drive: 'Drive tests', file: 'File tests', control: 'Controls', note: 'Readings' }

const percent = (v: number) => `${(v * 100).toFixed(1)} %`

/** UsualSpread is the usual spread of runs, and its basis: a few runs are judged by it. */
export function UsualSpread({ of }: { of: Schemas['Usual'] }) {
  const learn = useLearn()
  return (
    <section>
      <h2 className="text-xl font-bold">How much runs usually vary</h2>
      <p className="mb-2">
        A few runs say little about how much a figure varies. So the usual spread of such tests counts too: your shop’s, once enough jobs are finished, and the default until then.
        Issued reports stay as they were.
      </p>
      <table className="w-full max-w-3xl">
        <thead>
          <tr className="border-b border-base-content text-left">
            {['Kind of test', 'Within a session', 'Between sessions', 'Counts as', 'Based on'].map((h) => (
              <th key={h} scope="col" className="py-1 pr-4 font-semibold">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {of.kinds.map((k) => (
            <tr key={k.kind} className="border-b border-base-300">
              <th scope="row" className="py-1.5 pr-4 text-left font-normal">
                {names[k.kind]}
              </th>
              <td className="py-1.5 pr-4">{percent(k.usual.within)}</td>
              <td className="py-1.5 pr-4">{percent(k.usual.between)}</td>
              <td className="py-1.5 pr-4">{Math.round(k.usual.weight)} runs</td>
              <td className="py-1.5">
                {k.own ? `${k.sides} results of this shop` : `default; ${k.sides} of 20 results needed`}
                {k.own && !k.own_between && `; between sessions the default (${k.sittings} of 10 needed)`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-3 flex flex-wrap items-center gap-4">
        <CommandButton of={learn} onClick={() => learn.run()}>
          Learn from the finished jobs
        </CommandButton>
        <span className="text-secondary">{of.at ? `Learned ${time(of.at)} from ${of.jobs} ${of.jobs === 1 ? 'job' : 'jobs'}. Simulated jobs don’t count.` : 'Not learned yet.'}</span>
      </div>
      {learn.error && <Refusal error={learn.error} />}
    </section>
  )
}
