import { useFormContext, useWatch } from 'react-hook-form'
import { client, data } from '../api/client'
import { useJobs } from '../bench/queries'
import { day } from '../ui/format'
import { fromComputer, type IntakeInput } from './fields'

/** Returning offers what earlier jobs know of a customer whose name is being typed. */
export function Returning() {
  const { control, setValue } = useFormContext<IntakeInput>()
  const name = (useWatch({ control, name: 'customer.name' }) ?? '').trim().toLowerCase()
  const known = name.length >= 3
  const jobs = useJobs('all', name, known)
  const own = known ? (jobs.data?.cards ?? []).filter((c) => c.customer.toLowerCase().startsWith(name)).slice(0, 3) : []
  if (own.length === 0) return null
  const use = async (id: string) => {
    const { job } = await data(client.GET('/api/jobs/{job}', { params: { path: { job: id }, query: { runs: 'none' } } }))
    setValue('customer', { name: job.job.customer?.name ?? '', contact: job.job.customer?.contact ?? '' }, { shouldDirty: true })
    setValue('computer', fromComputer(job.computers[0]), { shouldDirty: true })
  }
  return (
    <ul role="status" aria-label="Earlier jobs of this customer" className="border-l-4 border-info pl-3">
      {own.map((c) => (
        <li key={c.id} className="flex flex-wrap items-center gap-x-3 py-1">
          <span className="flex-1">
            <strong>{c.customer}</strong>, {day(c.opened)}: {[c.computer, c.new_drive || c.old_drive].filter(Boolean).join(', ')}
          </span>
          <button type="button" className="btn btn-sm" onClick={() => void use(c.id)}>
            Use this customer and computer
          </button>
        </li>
      ))}
    </ul>
  )
}
