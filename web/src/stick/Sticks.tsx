import { Link } from 'react-router'
import { useReach } from '../access/queries'
import { CommandButton } from '../ui/CommandButton'
import { day } from '../ui/format'
import { Query, Refusal } from '../ui/parts'
import { usePrepareStick, useRevokeStick, useSticks } from './queries'

/** PrepareStick downloads what goes on a stick. */
export function PrepareStick({ size }: { size?: 'sm' }) {
  const prepare = usePrepareStick()
  return (
    <>
      <CommandButton of={prepare} size={size} onClick={() => prepare.run()}>
        Prepare a stick
      </CommandButton>
      {prepare.isPending && (
        <span role="status" className="text-secondary">
          Packing the probes …
        </span>
      )}
      {prepare.isSuccess && (
        <p role="status" className="basis-full">
          Unpack nowthen-stick.zip onto a USB stick, then write-protect the stick. On a customer’s computer, open the folder and double-click its start file.
        </p>
      )}
      {prepare.error && <Refusal error={prepare.error} />}
    </>
  )
}

/** Sticks lists the keys of the shop's sticks, and prepares and revokes them. */
export function Sticks() {
  const sticks = useSticks()
  const revoke = useRevokeStick()
  const reach = useReach()
  return (
    <section>
      <h2 className="text-xl font-bold">Shop sticks</h2>
      <p className="max-w-prose text-secondary">
        A stick with the probe joins customers’ computers with a double-click. Its key only announces a computer to this bench, and you admit it here.
      </p>
      <Query of={sticks} what="the sticks">
        {(list) =>
          list.length > 0 && (
            <div className="overflow-x-auto">
              <table className="my-2 text-left">
                <thead>
                  <tr>
                    {['Prepared', 'Works until', 'Last used', ''].map((h) => (
                      <th key={h} scope="col" className="py-1 pr-8 font-semibold">
                        {h || <span className="sr-only">Revoke</span>}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {list.map((k) => (
                    <tr key={k.id}>
                      <td className="py-1 pr-8">{day(k.made)}</td>
                      <td className="py-1 pr-8">{k.revoked ? 'revoked' : k.expired ? `expired ${day(k.until)}` : day(k.until)}</td>
                      <td className="py-1 pr-8">{k.used ? day(k.used) : 'never'}</td>
                      <td className="py-1">
                        {!k.revoked && !k.expired && (
                          <CommandButton of={revoke} size="sm" aria-label={`Revoke the stick of ${day(k.made)}`} onClick={() => revoke.run(k.id)}>
                            Revoke
                          </CommandButton>
                        )}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )
        }
      </Query>
      {revoke.error && <Refusal error={revoke.error} />}
      {reach.data?.probes === false && (
        <p className="text-warning">
          Customers’ computers can’t reach the bench yet.{' '}
          <Link className="link" to="/reach">
            Open it to the shop
          </Link>{' '}
          first: a stick knows only the addresses that the bench has when you prepare it.
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <PrepareStick />
      </div>
    </section>
  )
}
