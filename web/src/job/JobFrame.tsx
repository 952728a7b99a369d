import { useMemo } from 'react'
import { Outlet, useNavigate, useOutletContext, useParams } from 'react-router'
import type { View } from '../api/client'
import { useJob } from './queries'
import { Onward } from '../ui/goOn'
import { Query } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { InTheBin } from './Bin'
import { Docket } from './Docket'
import { pagePath } from './paths'
import { stationsOf } from './stations'
import { WaitingRuns } from './WaitingRuns'

/** useView is the job whose page is open. */
export const useView = () => useOutletContext<View>()

/** JobFrame is around every page of a job: its docket with the way through it, and the page itself. */
export function JobFrame() {
  const job = useJob(useParams().job!)
  return (
    <Query of={job} what="the job" page>
      {(view) => (
        <>
          <Docket view={view} />
          <Keys view={view} />
          <div className="py-4">
            <InTheBin view={view} />
            <WaitingRuns view={view} />
            <Outlet context={view} />
          </div>
        </>
      )}
    </Query>
  )
}

/** Keys go from station to station. */
function Keys({ view }: { view: View }) {
  const go = useNavigate()
  useShortcuts(
    useMemo(() => {
      const step = (by: number) => {
        const all = stationsOf(view)
        const at = all.findIndex((s) => location.pathname.startsWith(s.path))
        const to = all[at < 0 ? all.findIndex((s) => s.state === 'here') : at + by]
        if (to) void go(to.path)
      }
      return [
        { key: ']', label: 'Next station', run: () => step(1) },
        { key: '[', label: 'Previous station', run: () => step(-1) },
        { key: 'l', label: 'Result', run: () => void go(pagePath(view.id, 'compare')) },
        { key: 'r', label: 'Report', run: () => void go(pagePath(view.id, 'report')) },
      ]
    }, [go, view]),
  )
  return null
}

/** ToReached goes to the page that the job has reached. */
export function ToReached() {
  const view = useView()
  return <Onward to={{ pathname: pagePath(view.id, view.page), hash: location.hash, search: location.search }} />
}
