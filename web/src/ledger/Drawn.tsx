import type { Schemas, View } from '../api/client'
import { Deeper, halvesOf } from '../closer/Deeper'

/** Drawn draws what the runs of a line contain beyond their values; it is loaded when a line is opened. */
export const Drawn = ({ view, closer, setups }: { view: View; closer: Schemas['Closer']; setups: string[] }) => <Deeper halves={halvesOf(view, closer, setups)} test={closer.test} />
