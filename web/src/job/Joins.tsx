import type { Setup, View } from '../api/client'
import { useChangeSetup } from './queries'
import { Choice } from '../ui/Choice'
import { Refusal } from '../ui/parts'
import { relationOf, relations } from './relation'

/** Joins asks how a setup's drive joins the computer: wording, checks and the report follow. */
export function Joins({ view, setup, label }: { view: View; setup: Setup; label: string }) {
  const change = useChangeSetup(view.id)
  return (
    <div>
      <Choice label={label} value={relationOf(setup)} options={relations} onChange={(relation) => change.run({ setup: setup.id, relation })} />
      {change.error && <Refusal error={change.error} />}
    </div>
  )
}
