import { Link } from 'react-router'
import type { Ledger, View } from '../api/client'
import { measurePath, sidePath } from '../job/paths'
import { byHand, setupOf, testOf } from '../job/view'
import { OpenTimer } from '../timer/OpenTimer'
import { minutes } from '../ui/format'
import { tallyInWords, tallyOf } from './axis'
import { effectsOf, type Numbered } from './findings'
import { drivesOut, partsOf } from './sides'

/** Head says what the customer will feel, how certain that is, and what would narrow the range. */
export function Head({ view, ledger, list }: { view: View; ledger: Ledger; list: Numbered[] }) {
  const row = ledger.rows.find((r) => r.test.id === ledger.headline)
  const same = ledger.rows.filter((r) => ledger.savings?.same_occasion.includes(r.test.id))
  const { sharper } = ledger
  return (
    <div className="border-t-2 border-base-content pt-3">
      <div className="flex flex-wrap items-start gap-x-8 gap-y-2">
        <div className="flex-1 basis-96">
          {row && (
            <>
              <p className="text-2xl leading-tight font-bold">
                {row.test.name}: {row.words.then || 'not measured'} then, {row.words.with || 'not measured'} now
                {row.words.factor && `, ${row.words.factor}`}.
              </p>
              {(row.words.range || row.words.doubt) && (
                <p>
                  {row.words.range && `${capital(row.words.range)}, with 95 % confidence. `}
                  {row.words.doubt && <span className="font-semibold text-warning">{capital(row.words.doubt)}.</span>}
                </p>
              )}
            </>
          )}
          {ledger.savings && <p className="text-lg font-semibold">{ledger.savings.words}</p>}
          {same.length > 0 && <p className="text-sm text-secondary">Counted once with another test of the same occasion: {same.map((r) => r.test.name).join(', ')}.</p>}
        </div>
        {ledger.drive.words && (
          <p className="text-secondary">
            The drive by itself: <strong>{ledger.drive.words}</strong>
          </p>
        )}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-x-6 gap-y-2">
        <p className="flex-1 basis-80">{tallyInWords(tallyOf(ledger.rows, effectsOf(list)))}</p>
        {sharper && (
          <p className="flex flex-wrap items-center gap-3">
            <span>{sharper.words}</span>
            <Sharpen view={view} sharper={sharper} />
          </p>
        )}
      </div>
    </div>
  )
}

const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1)

/** Sharpen begins the most useful further measurement. */
function Sharpen({ view, sharper }: { view: View; sharper: NonNullable<Ledger['sharper']> }) {
  const setup = partsOf(view, sharper.setup).setup
  const test = testOf(view, sharper.test)
  const s = setupOf(view, setup)
  if (!s || drivesOut(view, setup)) return null
  const label = `Add runs to narrow the range${sharper.minutes > 0 ? `, about ${minutes(sharper.minutes)}` : ''}`
  if (!test) {
    return (
      <Link className="btn" to={sidePath(view.id, s)}>
        {label}
      </Link>
    )
  }
  if (byHand(view, test)) {
    return (
      <OpenTimer view={view} setup={setup} test={test.id}>
        {label}
      </OpenTimer>
    )
  }
  return (
    <Link className="btn" to={`${measurePath(view.id, setup)}?test=${encodeURIComponent(test.id)}&runs=${sharper.runs}`}>
      {label}
    </Link>
  )
}
