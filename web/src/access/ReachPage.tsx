import { zodResolver } from '@hookform/resolvers/zod'
import { useForm } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas } from '../api/client'
import { useCloseToShop, useOpenToShop, useReach, useSession, useSetPassword, useSignOut } from './queries'
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
                <OpenToShop reach={r} />
              )}
              {r.opened && <CloseToShop />}
              {r.fingerprint && (
                <section>
                  <h2 className="text-xl font-bold">The bench’s own certificate</h2>
                  <p className="text-secondary">A browser warns about it the first time. It is the right one if it shows this SHA-256 fingerprint:</p>
                  <p className="max-w-prose font-mono text-sm break-all">{r.fingerprint}</p>
                </section>
              )}
              {(r.password || r.open) && <Password set={r.password} />}
              <Sessions />
            </>
          )
        }}
      </Query>
    </div>
  )
}

/** firewall is what the system of the bench's computer may ask once the bench is opened. */
const firewall: Record<string, string> = {
  windows: 'Windows may ask whether nowthen may accept connections. Allow it in private networks.',
  darwin: 'macOS may ask whether nowthen may accept incoming connections. Allow it.',
  linux: 'If a firewall runs on this computer, allow nowthen’s ports in it.',
}

const openings = z.object({ host: z.string().min(1), password: z.string().min(1, 'Enter the shop password.') })

/** OpenToShop opens a bench that only its own computer reaches to phones and customers' computers. */
function OpenToShop({ reach }: { reach: Schemas['Reach'] }) {
  const open = useOpenToShop()
  const { register, handleSubmit, formState } = useForm({ resolver: zodResolver(openings), mode: 'onTouched', defaultValues: { host: reach.choices[0] ?? '', password: '' } })
  const fields = open.error?.refusal.fields
  if (reach.choices.length === 0)
    return (
      <section className="max-w-prose border-l-4 border-info pl-4">
        <p className="font-semibold">Only this computer can reach the bench.</p>
        <p>This computer is in no network. Connect it to the shop’s network, then come back to this page.</p>
      </section>
    )
  return (
    <section className="max-w-prose border-l-4 border-info pl-4">
      <h2 className="text-xl font-bold">Open to the shop</h2>
      <p>Only this computer can reach the bench. Open it to phones and customers’ computers in the shop’s network. They need the shop password, or a stick or code.</p>
      <form className="mt-2 flex max-w-md flex-col gap-3" onSubmit={(e) => void handleSubmit((f) => open.run(f))(e)}>
        {reach.choices.length > 1 && (
          <label className="flex flex-col gap-1">
            <span className="font-semibold">Address</span>
            <select className="select" {...register('host')}>
              {reach.choices.map((c) => (
                <option key={c}>{c}</option>
              ))}
            </select>
          </label>
        )}
        <Field
          label={reach.password ? 'Shop password' : 'New shop password (10 characters or more)'}
          type="password"
          autoComplete={reach.password ? 'current-password' : 'new-password'}
          error={formState.errors.password?.message ?? fields?.password}
          {...register('password')}
        />
        {firewall[reach.system] && <p className="text-secondary">{firewall[reach.system]}</p>}
        <CommandButton of={open} type="submit" tone="primary" className="self-start">
          Open to the shop
        </CommandButton>
        {open.error && <Refusal error={open.error} />}
      </form>
    </section>
  )
}

function CloseToShop() {
  const close = useCloseToShop()
  return (
    <section>
      <p className="mb-2 max-w-prose text-secondary">The bench stays open to the shop after a restart, until you close it.</p>
      <CommandButton of={close} onClick={() => close.run()}>
        Close to the shop
      </CommandButton>
      {close.error && <Refusal error={close.error} />}
    </section>
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
