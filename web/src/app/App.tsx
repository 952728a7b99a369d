import { lazy, Suspense } from 'react'
import { Link, Outlet, ScrollRestoration } from 'react-router'
import { useLive } from '../api/live'
import { useSession } from '../access/queries'
import { Heading } from '../ui/Heading'
import { Empty, Loading } from '../ui/parts'
import { Line } from './Line'
import { TopBar } from './TopBar'

// Most devices never sign in.
const SignIn = lazy(async () => ({ default: (await import('../access/SignIn')).SignIn }))

/** App is every page of the bench. The timer stands alone: nothing may cover it. */
export function App() {
  const session = useSession()
  if (session.data && !session.data.signed_in)
    return (
      <Suspense fallback={<Loading what="the page" />}>
        <SignIn />
      </Suspense>
    )
  return <Pages />
}

function Pages() {
  useLive()
  return (
    <>
      <Line />
      <Outlet />
      <ScrollRestoration />
    </>
  )
}

/** Framed is what is around every page but the full-screen tools. */
export function Framed() {
  return (
    <>
      <TopBar />
      <main id="main" className="mx-auto w-full max-w-6xl px-4 pb-16 max-sm:pb-24 md:px-6 print:max-w-none print:p-0">
        <Outlet />
      </main>
    </>
  )
}

export function Nowhere() {
  return (
    <div className="pt-10">
      <Heading title="No such page" className="sr-only">
        No such page
      </Heading>
      <Empty title="There is no such page.">
        <Link className="btn btn-primary" to="/">
          To the jobs
        </Link>
      </Empty>
    </div>
  )
}
