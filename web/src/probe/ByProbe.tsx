import type { Test, View } from '../api/client'
import { useAddTest, useTakeOutTest } from '../plan/queries'
import { CommandButton } from '../ui/CommandButton'
import { Refusal } from '../ui/parts'

/** ByProbe puts the restart that the probe times by itself in the place of the one that is timed by hand. */
export function ByProbe({ view, test }: { view: View; test: Test }) {
  const add = useAddTest(view.id)
  const remove = useTakeOutTest(view.id)
  return (
    <>
      <CommandButton of={add} size="sm" onClick={() => add.run({ id: 't-restart-watch' }, () => remove.run(test.id))}>
        Let the probe time it
      </CommandButton>
      {Boolean(add.error ?? remove.error) && <Refusal error={add.error ?? remove.error} />}
    </>
  )
}
