import { zodResolver } from '@hookform/resolvers/zod'
import { useForm } from 'react-hook-form'
import { z } from 'zod'
import { useReach, useSession, useSetPassword, useSignOut } from './queries'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Heading } from '../ui/Heading'
import { Query, Refusal } from '../ui/parts'

/** ReachPage says how other devices reach the bench: the address, as text and as a QR code, the shop password, and who is signed in. */
export function ReachPage() {
  const reach = useReach()
  return (
    <div className="flex flex-col gap-8 py-5">
      <Heading title="The bench on a phone" className="text-3xl font-bold tracking-tight">The bench on a phone</Heading>
      <Query of={reach} what="the addresses">
        {(r) => {
          const outside = r.addresses.filter((a) => !a.loopback)
          return (
            <>
              {outside.length > 0 ? (
                <section className="flex flex-wrap items-center gap-8">
                  <img src="/api/reach/qr.png?path=/" width={256} height={256} alt={`QR code of ${outside[0]!.url}`} className="rounded-box border border-base-300 bg-white p-2" />
                  <div>
                    <p>Point the phone’s camera at it, or type:</p>
                    {outside.map((a) => (
                      <p key={a.url} className="text-3xl font-bold break-all">
                        {a.url}
                      </p>
                    ))}
                    <p className="max-w-prose text-secondary">The phone asks for the shop’s password once. A running timer and a running round show on every device.</p>
                  </div>
                </section>
              ) : (
                <section className="max-w-prose border-l-4 border-info pl-4">
                  <p className="font-semibold">The bench can only be reached from this computer.</p>
                  <p>
                    To reach it from a phone in the shop’s network, {r.password ? '' : 'set a shop password below, then '}start it with{' '}
                    <code className="font-semibold">nowthen serve --listen 0.0.0.0:7117</code>, and with <code className="font-semibold">--tls</code> where others use the network as well.
                  </p>
                </section>
              )}
              {r.fingerprint && (
                <section>
                  <h2 className="text-xl font-bold">The bench’s own certificate</h2>
                  <p className="text-secondary">A browser warns about it the first time. It is the right one if it shows this SHA-256 fingerprint:</p>
                  <p className="max-w-prose font-mono text-sm break-all">{r.fingerprint}</p>
                </section>
              )}
              <Password set={r.password} />
              <Sessions />
            </>
          )
        }}
      </Query>
    </div>
  )
}

const passwords = z
  .object({ current: z.string(), password: z.string().min(1, 'Enter the new password.'), again: z.string() })
  .refine((f) => f.again === f.password, { path: ['again'], message: 'The two do not match.' })

function Password({ set }: { set: boolean }) {
  const save = useSetPassword()
  const { register, handleSubmit, reset, formState } = useForm({ resolver: zodResolver(passwords), mode: 'onTouched', defaultValues: { current: '', password: '', again: '' } })
  const { errors } = formState
  const fields = save.error?.refusal.fields
  return (
    <section>
      <h2 className="text-xl font-bold">{set ? 'Change the shop password' : 'Set a shop password'}</h2>
      <form className="mt-2 flex max-w-md flex-col gap-3" onSubmit={(e) => void handleSubmit((f) => save.run({ password: f.password, ...(set ? { current: f.current } : {}) }, () => reset()))(e)}>
        {set && <Field label="Current password" type="password" autoComplete="current-password" error={fields?.current} {...register('current')} />}
        <Field label="New password (10 characters or more)" type="password" autoComplete="new-password" error={errors.password?.message ?? fields?.password} {...register('password')} />
        <Field label="Repeat the new password" type="password" autoComplete="new-password" error={errors.again?.message} {...register('again')} />
        <CommandButton of={save} type="submit" tone="primary" className="self-start">
          {set ? 'Change password' : 'Set password'}
        </CommandButton>
        {save.isSuccess && <p role="status">Password set. Every device has to sign in again.</p>}
        {save.error && <Refusal error={save.error} />}
      </form>
    </section>
  )
}

function Sessions() {
  const session = useSession()
  const out = useSignOut()
  if (!session.data?.needed) return null
  return (
    <section>
      <h2 className="text-xl font-bold">Signed in</h2>
      <div className="mt-2 flex flex-wrap gap-3">
        <button type="button" className="btn" onClick={() => out.run('here')}>
          Sign out here
        </button>
        <button type="button" className="btn" onClick={() => out.run('everywhere')}>
          Sign out on every device
        </button>
      </div>
      {out.error && <Refusal error={out.error} />}
    </section>
  )
}
