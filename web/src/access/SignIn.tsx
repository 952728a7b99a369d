import { useState } from 'react'
import { useSignIn } from '../api/queries'
import { Field } from '../ui/Field'
import { Refusal } from '../ui/parts'

/** SignIn asks for the shop's password, on a device that reaches the bench over the network. */
export function SignIn() {
  const signIn = useSignIn()
  const [password, setPassword] = useState('')
  return (
    <main className="mx-auto flex min-h-dvh max-w-md flex-col justify-center gap-5 p-6">
      <h1 className="text-4xl font-bold tracking-tight">Now Then</h1>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault()
          signIn.run(password)
        }}
      >
        <Field
          label="The shop’s password"
          type="password"
          autoComplete="current-password"
          autoFocus
          value={password}
          maxLength={1024}
          error={signIn.error?.refusal.fields?.password ? ' ' : undefined}
          onChange={(e) => setPassword(e.target.value)}
        />
        <button className="btn btn-primary btn-lg" disabled={signIn.isPending || password === ''}>
          {signIn.isPending ? 'Looking …' : 'Sign in'}
        </button>
      </form>
      {signIn.error && <Refusal error={signIn.error} />}
    </main>
  )
}
