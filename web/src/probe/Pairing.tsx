import { useEffect, useState } from 'react'
import { Link } from 'react-router'
import { usePair } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { Refusal } from '../ui/parts'

/** Copy puts a line where it can be pasted from. */
function Copy({ text }: { text: string }) {
  const [copied, setCopied] = useState(false)
  return (
    <button type="button" className="btn btn-sm" onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(true))}>
      {copied ? 'Copied' : 'Copy'}
    </button>
  )
}

/** Lines are what to type on the customer’s computer: the first address that others reach, and the rest folded. */
function Lines({ lines, page }: { lines: string[]; page: string }) {
  const [first = '', ...rest] = lines
  return (
    <>
      <p>
        On the customer’s computer, get the probe at <span className="font-semibold select-all">{page}</span> and start it with this line:
      </p>
      <Line text={first} />
      {rest.length > 0 && (
        <details>
          <summary className="cursor-pointer text-sm text-accent">Other addresses of this bench</summary>
          <ul className="flex flex-col gap-2 pt-2">
            {rest.map((line) => (
              <li key={line}>
                <Line text={line} />
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  )
}

const Line = ({ text }: { text: string }) => (
  <p className="flex flex-wrap items-center gap-2">
    <code className="rounded-sm bg-base-200 px-2 py-1 break-all select-all">{text}</code>
    <Copy text={text} />
  </p>
)

/** Pairing shows the code by which the customer's computer joins, and the line to run there. */
export function Pairing({ job, onCancel }: { job: string; onCancel: () => void }) {
  const pair = usePair(job)
  const { run, data: p } = pair
  useEffect(() => run(undefined), [run])
  // The answer with the code was lost: no code is shown twice.
  const lost = p?.code === ''
  useEffect(() => {
    if (lost) run(undefined)
  }, [lost, run])
  if (pair.error) return <Refusal error={pair.error} again={() => run(undefined)} />
  if (!p || lost) return <p role="status">Getting a code …</p>
  return (
    <div className="sheet mt-2 flex flex-col gap-3 p-4">
      <p className="flex flex-wrap items-baseline gap-x-4">
        <span className="text-4xl font-bold tracking-widest" aria-label={`Code ${p.code.split('').join(' ')}`}>
          {p.code}
        </span>
        <span className="text-secondary">valid once, until {new Date(p.until).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}</span>
      </p>
      {p.lines.length > 0 ? (
        <Lines lines={p.lines} page={p.page} />
      ) : (
        <p className="text-warning">
          The line to type isn’t shown here: this page came over plain HTTP, where somebody in the network could change it. Open this job on the bench’s own computer.
        </p>
      )}
      {!p.open && (
        <p className="text-warning">
          Only the bench’s own computer can join at the moment.{' '}
          <Link className="link" to="/reach">
            Open it to the shop
          </Link>{' '}
          to let customers’ computers join.
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        <CommandButton of={pair} size="sm" onClick={() => run(undefined)}>
          New code
        </CommandButton>
        <button type="button" className="btn btn-ghost btn-sm" onClick={onCancel}>
          Close
        </button>
      </div>
    </div>
  )
}
