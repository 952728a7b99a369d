// @vitest-environment jsdom
import { act, cleanup, render, screen } from '@testing-library/react'
import { useLayoutEffect } from 'react'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { afterEach, expect, it, vi } from 'vitest'
import { Onward, useGoOn, watchRouter } from './goOn'

/** Page leads on with an answer that may be late. */
function Page({ answer }: { answer: Promise<string> }) {
  const goOn = useGoOn()
  return (
    <button type="button" onClick={() => void answer.then(goOn((out) => `/jobs/${out}`))}>
      Make it
    </button>
  )
}

/** Hurried goes elsewhere as soon as it is on the page, before what the page does by itself. */
function Hurried({ go }: { go: () => void }) {
  useLayoutEffect(go)
  return null
}

/** fetched is a page whose code is still on its way. */
type Fetched = { Component: () => React.ReactNode }
let fetched: { promise: Promise<Fetched>; resolve: (m: Fetched) => void }

const pressed = () => {
  let bring: (m: Fetched) => void = () => {}
  fetched = { promise: new Promise<Fetched>((then) => (bring = then)), resolve: (m) => bring(m) }
  window.history.replaceState(null, '', '/new')
  let resolve: (job: string) => void = () => {}
  const late = new Promise<string>((then) => {
    resolve = then
  })
  const router = createBrowserRouter([
    { path: '/new', element: <Page answer={late} /> },
    { path: '/slow', lazy: () => fetched.promise },
    { path: '/onward', element: <Onward to="/new" /> },
    {
      path: '/overtaken',
      element: (
        <>
          <Hurried go={() => void router.navigate('/')} />
          <Onward to="/new" />
        </>
      ),
    },
    { path: '*', element: <p>elsewhere</p> },
  ])
  watchRouter(router)
  render(<RouterProvider router={router} />)
  screen.getByRole('button').click()
  return { router, answer: () => act(async () => resolve('7')) }
}

afterEach(cleanup)

it('leads on to what the answer tells', async () => {
  const { answer } = pressed()
  await answer()
  await vi.waitFor(() => expect(window.location.pathname).toBe('/jobs/7'))
})

it('leaves a user where he went while the answer was on its way', async () => {
  const { router, answer } = pressed()
  await act(() => router.navigate('/'))
  await answer()
  expect(window.location.pathname).toBe('/')
  expect(screen.getByText('elsewhere')).toBeTruthy()
})

it('leaves a user alone whose next page is still being fetched', async () => {
  const { router, answer } = pressed()
  let going: Promise<void> | undefined
  act(() => {
    going = router.navigate('/slow')
  })
  expect(window.location.pathname).toBe('/new')
  await answer()
  await act(async () => {
    fetched.resolve({ Component: () => <p>fetched</p> })
    await going
  })
  expect(window.location.pathname).toBe('/slow')
  expect(screen.getByText('fetched')).toBeTruthy()
})

it('goes onward unless the user goes elsewhere', async () => {
  const { router } = pressed()
  await act(() => router.navigate('/onward'))
  await vi.waitFor(() => expect(window.location.pathname).toBe('/new'))
})

it('does not take a user back who has gone elsewhere before it was shown', async () => {
  const { router } = pressed()
  vi.stubGlobal('IS_REACT_ACT_ENVIRONMENT', false) // as in a browser: what a page does by itself comes a moment after it is shown
  const been: string[] = []
  router.subscribe(({ location }) => been.push(location.pathname))
  await router.navigate('/overtaken')
  await vi.waitFor(() => expect(screen.getByText('elsewhere')).toBeTruthy())
  await new Promise((then) => setTimeout(then))
  vi.unstubAllGlobals()
  expect(been.at(-1)).toBe('/')
  expect(window.location.pathname).toBe('/')
})
