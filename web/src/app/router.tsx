import type { ComponentType } from 'react'
import { createBrowserRouter, redirect, type RouteObject } from 'react-router'
import { Loading } from '../ui/parts'
import { watchRouter } from '../ui/goOn'
import { hasMoved } from '../ui/Heading'
import { App, Framed, Nowhere } from './App'
import { Failed } from './Failed'

/** page is a page that is loaded on demand. Its errors are shown in its place. */
const page = <M extends Record<string, unknown>>(load: () => Promise<M>, name: keyof M & string): Pick<RouteObject, 'lazy' | 'errorElement' | 'hydrateFallbackElement'> => ({
  lazy: async () => ({ Component: (await load())[name] as ComponentType }),
  errorElement: <Failed />,
  hydrateFallbackElement: <Loading what="the page" page />,
})

const side = () => import('../side/SideStation')
const job = () => import('../job/JobFrame')

export const router = createBrowserRouter([
  {
    Component: App,
    errorElement: <Failed whole />,
    hydrateFallbackElement: <Loading what="the page" page />,
    children: [
      { path: '/jobs/:job/timer/:setup/:test', ...page(() => import('../timer/TimerPage'), 'TimerPage') },
      { path: '/jobs/:job/race/:test', ...page(() => import('../race/RacePage'), 'RacePage') },
      { path: '/reaction', ...page(() => import('../timer/ReactionPage'), 'ReactionPage') },
      {
        Component: Framed,
        children: [
          { index: true, ...page(() => import('../bench/BenchPage'), 'BenchPage') },
          { path: '/new', ...page(() => import('../intake/IntakePage'), 'IntakePage') },
          { path: '/reach', ...page(() => import('../access/ReachPage'), 'ReachPage') },
          { path: '/known', ...page(() => import('../known/KnownPage'), 'KnownPage') },
          { path: '/settings', ...page(() => import('../settings/SettingsPage'), 'SettingsPage') },
          {
            path: '/jobs/:job',
            ...page(job, 'JobFrame'),
            children: [
              { index: true, ...page(job, 'ToReached') },
              { path: 'intake', ...page(() => import('../intake/IntakeStation'), 'IntakeStation') },
              { path: 'then', ...page(side, 'ThenStation') },
              { path: 'prepare', ...page(() => import('../swap/PrepareStation'), 'PrepareStation') },
              { path: 'swap', ...page(() => import('../swap/SwapStation'), 'SwapStation') },
              { path: 'swap/sheet', ...page(() => import('../swap/SheetPage'), 'SheetPage') },
              { path: 'trials/:setup', ...page(side, 'TrialStation') },
              { path: 'now', ...page(side, 'NowStation') },
              { path: 'compare', ...page(() => import('../ledger/LedgerPage'), 'LedgerPage') },
              { path: 'ledger', loader: ({ request }) => redirect(request.url.replace('/ledger', '/compare')) }, // links of earlier versions
              { path: 'report', ...page(() => import('../report/ReportPage'), 'ReportPage') },
              { path: 'measure/:setup', ...page(() => import('../measure/MeasurePage'), 'MeasurePage') },
              { path: 'video/:setup/:test', ...page(() => import('../video/VideoPage'), 'VideoPage') },
              { path: 'tests/:test', ...page(() => import('../closer/CloserPage'), 'CloserPage') },
            ],
          },
          { path: '*', Component: Nowhere },
        ],
      },
    ],
  },
])

watchRouter(router)

let at = router.state.location.pathname
router.subscribe(({ location }) => {
  if (location.pathname === at) return
  at = location.pathname
  hasMoved()
})
