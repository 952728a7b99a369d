package plan

import (
	"slices"

	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/stats"
	"nowthen/core/stopwatch"
)

// quickWaits are tests whose wait is usually over in seconds, by what they are.
var quickWaits = []string{"wake", "launch-again", "shut-down", "open-tool"}

// shortShare is the share of a wait that a stopwatch must be able to show.
const shortShare = 0.2

// shortForAHand warns that a stopwatch can't show much for a wait as short as this one is, or usually is if it
// wasn't timed yet; "" if it can.
func (st *Standing) shortForAHand(t *job.Test) string {
	if !ByHand(t) || t.Retired {
		return ""
	}
	shows := 2 * stopwatch.ByHand(0, stopwatch.Presses(t.Counting(), 0))
	short := slices.Contains(quickWaits, t.What)
	if w := st.waitOf(t); w.kept > 0 {
		short = shows > shortShare*w.middle
	}
	if !short {
		return ""
	}
	return say("hint.by-hand", message.Values{"Seconds": shows})
}

// waitOf is how long a test's wait was so far.
func (st *Standing) waitOf(t *job.Test) wait {
	if st.index == nil {
		return wait{}
	}
	kept := 0
	for i := range st.Setups {
		kept += st.on(t, st.Setups[i].ID).Kept
	}
	if w, ok := st.waits[t.ID]; ok && w.kept == kept {
		return w
	}
	var values []float64
	for i := range st.Setups {
		for _, r := range st.index.Kept(t.ID, st.Setups[i].ID) {
			values = append(values, r.Value)
		}
	}
	w := wait{kept, stats.Median(values)}
	st.waits[t.ID] = w
	return w
}
