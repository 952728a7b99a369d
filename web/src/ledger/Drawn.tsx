import type { Schemas, View } from '../api/client'
import { Deeper, halvesOf } from '../closer/Deeper'

/** Drawn draws what the runs of a line tell beyond their values; it is fetched when a line is opened. */
export const Drawn = ({ view, closer, setups }: { view: View; closer: Schemas['Closer']; setups: string[] }) => <Deeper halves={halvesOf(view, closer, setups)} test={closer.test} />
