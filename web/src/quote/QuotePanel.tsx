import { zodResolver } from '@hookform/resolvers/zod'
import { Download } from 'lucide-react'
import { useForm } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas, View } from '../api/client'
import { useAcceptQuote, useSetQuote } from './queries'
import { useForecast } from '../job/queries'
import { Said } from '../intake/Forecast'
import { driveKinds } from '../job/view'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Query, Refusal } from '../ui/parts'

type Candidate = Schemas['Forecast']['candidates'][number]

/** most is how many drives a quote offers: it is one page. */
const most = 3

const nameOf = (c: Candidate) => driveKinds[c.new as keyof typeof driveKinds] ?? c.new

/** QuotePanel is a job before the customer has said yes: what is offered, until when, and the drive that they take. */
export function QuotePanel({ view }: { view: View }) {
  const forecast = useForecast(view.id, true)
  return (
    <section aria-labelledby="quote" className="border-4 border-info p-4">
      <h2 id="quote" className="text-xl font-bold">
        Quote
      </h2>
      <p className="text-secondary">Work starts when the customer accepts. Print or send the quote, then press the drive they choose.</p>
      <Query of={forecast} what="the forecast">
        {(f) => (
          <>
            <Offer view={view} candidates={f.candidates} />
            <Said view={view} of={f} />
          </>
        )}
      </Query>
    </section>
  )
}

const schema = z.object({ until: z.string() })

function Offer({ view, candidates }: { view: View; candidates: Candidate[] }) {
  const set = useSetQuote(view.id)
  const accept = useAcceptQuote(view.id)
  const quote = view.job.job.quote ?? {}
  const offered = quote.drives?.length ? quote.drives : candidates.slice(0, most).map((c) => c.new)
  const { register, handleSubmit, formState, reset } = useForm<z.infer<typeof schema>>({ resolver: zodResolver(schema), values: { until: quote.until ?? '' } })
  const toggle = (name: string) => {
    const drives = offered.includes(name) ? offered.filter((o) => o !== name) : [...offered, name]
    if (drives.length > 0) set.run({ drives })
  }
  return (
    <div className="flex flex-col gap-4 pt-3">
      {candidates.length > 1 && (
        <fieldset>
          <legend className="text-sm font-semibold">Offered, up to {most}</legend>
          {candidates.map((c) => (
            <label key={c.new} className="flex min-h-11 items-center gap-3">
              <input type="checkbox" className="checkbox" checked={offered.includes(c.new)} disabled={!offered.includes(c.new) && offered.length >= most} onChange={() => toggle(c.new)} />
              {nameOf(c)}
            </label>
          ))}
        </fieldset>
      )}
      <form className="flex flex-wrap items-end gap-3" onSubmit={(e) => void handleSubmit((f) => set.run(f, () => reset(f)))(e)}>
        <Field label="Valid until" type="date" {...register('until')} />
        {formState.isDirty && (
          <CommandButton of={set} type="submit">
            Save
          </CommandButton>
        )}
        {(['en', 'de'] as const).map((lang) =>
          (['pdf', 'txt'] as const).map((form) => (
            <a key={lang + form} className="btn btn-sm" href={`/api/jobs/${view.id}/quote/file?lang=${lang}&form=${form}`} download>
              <Download size={16} aria-hidden /> {form === 'pdf' ? 'PDF' : 'Text'}, {lang === 'de' ? 'German' : 'English'}
            </a>
          )),
        )}
      </form>
      <div className="flex flex-wrap gap-3">
        {candidates
          .filter((c) => offered.includes(c.new))
          .map((c) => (
            <CommandButton key={c.new} of={accept} onClick={() => accept.run(drive(c))}>
              Accepted: {nameOf(c)}
            </CommandButton>
          ))}
      </div>
      {Boolean(set.error ?? accept.error) && <Refusal error={set.error ?? accept.error} />}
    </div>
  )
}

/** drive is a candidate as the drive that goes in. */
function drive(c: Candidate): Schemas['DriveIn'] {
  return {
    kind: c.kind as Schemas['DriveIn']['kind'],
    ...(c.new !== c.kind && { model: c.new }),
    ...(c.capacity_bytes > 0 && { capacity_bytes: c.capacity_bytes }),
    ...(c.price && { price: { amount: c.price.amount, currency: c.price.currency } }),
  }
}
