package plan

import (
	"fmt"
	"slices"

	"nowthen/core/job"
	"nowthen/core/stats"
	"nowthen/core/stopwatch"
)

// quickWaits are tests whose wait is usually over in seconds, by what they are.
var quickWaits = []string{"wake", "launch-again", "shut-down"}

// shortShare is the share of a wait that a stopwatch must be able to show.
const shortShare = 0.2

// shortForAHand says beforehand that a stopwatch cannot show much of a wait as short as
// this one is, or usually is where it was not timed yet; "" where it can.
func (st *Standing) shortForAHand(t *job.Test) string {
	if !ByHand(t) || t.Retired {
		return ""
	}
	shows := 2 * stopwatch.ByHand(0, stopwatch.Presses(t.Counting(), 0))
	var values []float64
	if st.index != nil {
		for i := range st.Setups {
			for _, r := range st.index.Kept(t.ID, st.Setups[i].ID) {
				values = append(values, r.Value)
			}
		}
	}
	short := slices.Contains(quickWaits, t.What)
	if len(values) > 0 {
		short = shows > shortShare*stats.Median(values)
	}
	if !short {
		return ""
	}
	return fmt.Sprintf("By hand cannot show a difference under %.1f s here: take it from a video.", shows)
}
