import { zodResolver } from '@hookform/resolvers/zod'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import { useSignIn } from './queries'
import { Field } from '../ui/Field'
import { Refusal } from '../ui/parts'

const schema = z.object({ password: z.string().min(1) })

/** SignIn asks for the shop's password, on a device that reaches the bench over the network. */
export function SignIn() {
  const signIn = useSignIn()
  const { register, handleSubmit, control } = useForm({ resolver: zodResolver(schema), defaultValues: { password: '' } })
  const empty = useWatch({ control, name: 'password' }) === ''
  return (
    <main className="mx-auto flex min-h-dvh max-w-md flex-col justify-center gap-5 p-6">
      <h1 className="text-4xl font-bold tracking-tight">Now Then</h1>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => void handleSubmit((f) => signIn.run(f.password))(e)}
      >
        <Field
          label="The shop’s password"
          type="password"
          autoComplete="current-password"
          autoFocus
          maxLength={1024}
          error={signIn.error?.refusal.fields?.password ? ' ' : undefined}
          {...register('password')}
        />
        <button className="btn btn-primary btn-lg" disabled={signIn.isPending || empty}>
          {signIn.isPending ? 'Signing in …' : 'Sign in'}
        </button>
      </form>
      {signIn.error && <Refusal error={signIn.error} />}
    </main>
  )
}
