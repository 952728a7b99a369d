// @vitest-environment jsdom
import { act, cleanup, render, screen } from '@testing-library/react'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { afterEach, expect, it, vi } from 'vitest'
import { useGoOn } from './goOn'

/** Page leads on with an answer that may be late. */
function Page({ answer }: { answer: Promise<string> }) {
  const goOn = useGoOn()
  return (
    <button type="button" onClick={() => void answer.then(goOn((out) => `/jobs/${out}`))}>
      Make it
    </button>
  )
}

const pressed = () => {
  window.history.replaceState(null, '', '/new')
  let resolve: (job: string) => void = () => {}
  const late = new Promise<string>((then) => {
    resolve = then
  })
  const router = createBrowserRouter([
    { path: '/new', element: <Page answer={late} /> },
    { path: '*', element: <p>elsewhere</p> },
  ])
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
