import { CircleAlert, CircleCheck, CircleHelp } from 'lucide-react'
import { OneField } from '../ui/OneField'
import type { Schemas } from '../api/client'

type Check = Schemas['Check']

const marks = { fine: CircleCheck, wrong: CircleAlert, unknown: CircleHelp }
const tones = { fine: 'text-success', wrong: 'text-error', unknown: 'text-secondary' }
/** words name how a check stands. */
export const words = { fine: 'OK', wrong: 'problem', unknown: 'unknown' }

/** standing says in a few words how checks stand. */
export function standing(checks: Check[]): string {
  const of = (state: Check['state']) => checks.filter((c) => c.state === state).length
  if (of('wrong') > 0) return of('wrong') === 1 ? '1 problem' : `${of('wrong')} problems`
  return of('fine') === 0 ? 'not checked yet' : `${of('fine')} of ${checks.length} OK`
}

/**
 * CheckLine is a check, with what was found; onLook says what somebody saw, of one that is checked by hand, and onFix what fixed
 * it, which is offered for the next computer of the model.
 */
export function CheckLine({
  check: c,
  answers = { fine: 'OK', wrong: 'Problem' },
  onLook,
  onFix,
}: {
  check: Check
  answers?: { fine: string; wrong: string }
  onLook?: (state: 'fine' | 'wrong' | '') => void
  onFix?: { of: { isPending: boolean }; run: (fix: string, clear: () => void) => void }
}) {
  const Mark = marks[c.state]
  return (
    <li className="flex gap-2 border-b border-base-300 py-1.5">
      <Mark size={20} aria-hidden className={`mt-0.5 shrink-0 ${tones[c.state]}`} />
      <span className="flex-1">
        <span className="font-semibold">{c.title}</span>
        <span className="sr-only">: {words[c.state]}</span>
        <span className="block text-secondary">
          {c.found}
          {c.should && c.state === 'wrong' && `; it should be: ${c.should}`}
        </span>
        {c.do && <span className="block">{c.do}</span>}
        {c.fix && <span className="block">Fixed by: {c.fix}</span>}
        {c.earlier && c.earlier.length > 0 && <span className="block">On this model before: {c.earlier.join('; ')}</span>}
        {onFix && c.state === 'wrong' && (
          <OneField label={`How it was fixed: ${c.title}`} placeholder="How it was fixed" verb="Fixed" verbLabel={`Fixed: ${c.title}`} tone="plain" of={onFix.of} onDone={onFix.run} />
        )}
        {c.rule && c.state === 'wrong' && <span className="block text-secondary">Results measured like this may get a caveat in the ledger.</span>}
      </span>
      {onLook && (
        <span className="flex shrink-0 gap-1">
          {(['fine', 'wrong'] as const).map((state) => (
            <button
              key={state}
              type="button"
              className={`btn btn-sm ${c.state === state ? 'btn-primary' : ''}`}
              aria-pressed={c.state === state}
              aria-label={`${answers[state]}: ${c.title}`}
              onClick={() => onLook(c.state === state ? '' : state)}
            >
              {answers[state]}
            </button>
          ))}
        </span>
      )}
    </li>
  )
}
