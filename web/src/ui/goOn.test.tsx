// @vitest-environment jsdom
import { act, cleanup, render, screen } from '@testing-library/react'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { afterEach, expect, it } from 'vitest'
import { useGoOn } from './goOn'

/** late is the answer to what was pressed on the page. */
let late: (out: string) => void

function Page() {
  const goOn = useGoOn()
  late = goOn((out) => `/jobs/${out}`)
  return <p>a page</p>
}

const show = () => {
  const router = createBrowserRouter([
    { path: '/new', element: <Page /> },
    { path: '*', element: <p>elsewhere</p> },
  ])
  render(<RouterProvider router={router} />)
  return router
}

afterEach(cleanup)

it('leads on to what the answer tells', async () => {
  window.history.replaceState(null, '', '/new')
  show()
  await act(async () => late('7'))
  expect(window.location.pathname).toBe('/jobs/7')
  expect(screen.getByText('elsewhere')).toBeTruthy()
})

it('leaves a user where he went while the answer was on its way', async () => {
  window.history.replaceState(null, '', '/new')
  const router = show()
  const answer = late
  await act(() => router.navigate('/'))
  await act(async () => answer('7'))
  expect(window.location.pathname).toBe('/')
})
