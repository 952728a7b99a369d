import { useEffect } from 'react'
import { Link, Outlet, Route, Routes, useLocation } from 'react-router'
import { ReachPage } from '../access/ReachPage'
import { SignIn } from '../access/SignIn'
import { useLive } from '../api/live'
import { useSession } from '../api/queries'
import { BenchPage } from '../bench/BenchPage'
import { CloserPage } from '../closer/CloserPage'
import { IntakePage } from '../intake/IntakePage'
import { JobPage } from '../job/JobPage'
import { LedgerPage } from '../ledger/LedgerPage'
import { MeasurePage } from '../measure/MeasurePage'
import { RacePage } from '../race/RacePage'
import { ReportPage } from '../report/ReportPage'
import { ReactionPage } from '../timer/ReactionPage'
import { TimerPage } from '../timer/TimerPage'
import { Empty } from '../ui/parts'
import { VideoPage } from '../video/VideoPage'
import { Line } from './Line'
import { SettingsPage } from './SettingsPage'
import { TopBar } from './TopBar'

/** App is every page of the bench. The timer stands alone: nothing may lie over it. */
export function App() {
  const session = useSession()
  if (session.data && !session.data.signed_in) return <SignIn />
  return <Pages />
}

function Pages() {
  useLive()
  return (
    <>
      <Line />
      <Routes>
      <Route path="/jobs/:job/timer/:setup/:test" element={<TimerPage />} />
      <Route path="/jobs/:job/race/:test" element={<RacePage />} />
      <Route path="/reaction" element={<ReactionPage />} />
      <Route element={<Framed />}>
        <Route index element={<BenchPage />} />
        <Route path="/new" element={<IntakePage />} />
        <Route path="/reach" element={<ReachPage />} />
        <Route path="/settings" element={<SettingsPage />} />
        <Route path="/jobs/:job" element={<JobPage />} />
        <Route path="/jobs/:job/measure/:setup" element={<MeasurePage />} />
        <Route path="/jobs/:job/video/:setup/:test" element={<VideoPage />} />
        <Route path="/jobs/:job/tests/:test" element={<CloserPage />} />
        <Route path="/jobs/:job/ledger" element={<LedgerPage />} />
        <Route path="/jobs/:job/report" element={<ReportPage />} />
        <Route path="*" element={<Nowhere />} />
      </Route>
      </Routes>
    </>
  )
}

function Framed() {
  const { pathname } = useLocation()
  useEffect(() => {
    window.scrollTo(0, 0)
  }, [pathname])
  return (
    <>
      <TopBar />
      <main id="main" className="mx-auto w-full max-w-6xl px-4 pb-16 md:px-6 print:max-w-none print:p-0">
        <Outlet />
      </main>
    </>
  )
}

function Nowhere() {
  return (
    <div className="pt-10">
      <Empty title="There is no such page.">
        <Link className="btn btn-primary" to="/">
          To the bench
        </Link>
      </Empty>
    </div>
  )
}
