import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { useForm } from 'react-hook-form'
import { z } from 'zod'
import { useMakeShare, useRevokeShare, useShares } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { day } from '../ui/format'
import { Refusal } from '../ui/parts'

const terms = { 30: '30 days', 90: '3 months', 365: 'a year' }

const schema = z.object({ days: z.enum(['30', '90', '365']) })

/** Share makes links by which the customer reads the issued report, and says how often they were opened. */
export function Share({ job }: { job: string }) {
  const shares = useShares(job)
  const make = useMakeShare(job)
  const revoke = useRevokeShare(job)
  const { register, handleSubmit } = useForm<z.infer<typeof schema>>({ resolver: zodResolver(schema), defaultValues: { days: '90' } })
  const [copied, setCopied] = useState(false)
  const made = make.data
  const list = shares.data ?? []
  return (
    <section aria-labelledby="share" className="flex flex-col gap-2">
      <form
        className="flex flex-wrap items-center gap-3"
        onSubmit={(e) =>
          void handleSubmit(({ days }) => {
            setCopied(false)
            make.run(Number(days))
          })(e)
        }
      >
        <h2 id="share" className="mr-auto text-xl font-bold">
          Share with the customer
        </h2>
        <label className="flex items-center gap-2">
          Link valid for
          <select className="select w-32" {...register('days')}>
            {Object.entries(terms).map(([n, words]) => (
              <option key={n} value={n}>
                {words}
              </option>
            ))}
          </select>
        </label>
        <CommandButton of={make} type="submit">
          Create link
        </CommandButton>
      </form>
      {make.error && <Refusal error={make.error} />}
      {made && !made.token && <p role="alert">The link was created, but its address didn’t arrive and can’t be shown again. Revoke it below and create a new one.</p>}
      {made?.token && (
        <div className="sheet flex flex-wrap items-center gap-5 p-4">
          <img src={`/api/reach/qr.png?path=${encodeURIComponent(`/r/${made.token}`)}`} width={160} height={160} alt="The link as a code for a phone’s camera" className="rounded-sm bg-white" />
          <div className="flex flex-1 basis-72 flex-col gap-2">
            <p className="break-all select-all">{made.url}</p>
            <button type="button" className="btn btn-sm self-start" onClick={() => void navigator.clipboard.writeText(made.url).then(() => setCopied(true))}>
              {copied ? 'Copied' : 'Copy'}
            </button>
            <a className="link self-start font-semibold" href={`/r/${made.token}/card`} target="_blank" rel="noreferrer">
              Card for the check at home, to print
            </a>
            <p className="text-secondary">It is shown only once. Anyone who has it can read this report, and nothing else.</p>
            {!made.open && <p className="text-warning">This bench can only be reached from its own computer: send the report as a web page instead (Save as).</p>}
          </div>
        </div>
      )}
      {list.length > 0 && (
        <ul>
          {list.map((s) => (
            <li key={s.id} className="flex flex-wrap items-center gap-x-3 border-b border-base-300 py-1">
              <span className="mr-auto">
                Link of {day(s.made)}, revision {s.revision}: opened {s.opened === 1 ? 'once' : `${s.opened} times`},{' '}
                {s.revoked ? 'revoked' : s.expired ? 'expired' : `valid until ${day(s.until)}`}
              </span>
              {!s.revoked && !s.expired && (
                <CommandButton of={revoke} size="sm" onClick={() => revoke.run(s.id)}>
                  Revoke
                </CommandButton>
              )}
            </li>
          ))}
        </ul>
      )}
      {Boolean(shares.error ?? revoke.error) && <Refusal error={shares.error ?? revoke.error} />}
    </section>
  )
}
