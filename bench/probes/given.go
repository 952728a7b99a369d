package probes

import (
	"slices"

	"nowthen/core/order"
	"nowthen/core/round"
)

// given is an order that a probe was given: what its runs may be.
type given struct {
	ID      string `json:"id"`
	Sitting string `json:"sitting"`
	// Steps are the tests of its steps by id, in their order, and Runs the ids of the runs that came
	// of each, "" where none has.
	Steps []string `json:"steps"`
	Runs  []string `json:"runs"`
}

// maxGiven is how many orders of a probe are remembered: runs of an order come late where the bench
// could not be reached.
const maxGiven = 20

// remember notes an order that is given.
func (r *record) remember(o *order.Order) {
	g := &given{ID: o.ID, Sitting: o.Sitting}
	for _, s := range round.Steps(o.Tests, o.Wanted) {
		g.Steps = append(g.Steps, s.Test.ID)
	}
	g.Runs = make([]string, len(g.Steps))
	r.Given = append(r.Given, g)
	r.Given = r.Given[max(0, len(r.Given)-maxGiven):]
}

// ordered is the order of an id that was given, or nil. One from before orders were remembered is
// the one that the probe has.
func (r *record) ordered(id string) *given {
	if i := slices.IndexFunc(r.Given, func(g *given) bool { return g.ID == id }); i >= 0 {
		return r.Given[i]
	}
	if r.Order != nil && r.Order.ID == id {
		r.remember(r.Order)
		return r.Given[len(r.Given)-1]
	}
	return nil
}

// unasked says why nobody asked for a run, or "".
func (r *record) unasked(res *order.Result) string {
	g := r.ordered(res.Order)
	switch {
	case g == nil:
		return "no order asked for it"
	case res.Run.Sitting != g.Sitting:
		return "its order was for another session"
	case res.Step < 0 || res.Step >= len(g.Steps) || g.Steps[res.Step] != res.Run.Test:
		return "its order was for other tests"
	case g.Runs[res.Step] != "" && g.Runs[res.Step] != res.Run.ID:
		return "its order has this run already"
	}
	return ""
}

// came notes the run that came of a step.
func (r *record) came(res *order.Result) {
	if g := r.ordered(res.Order); g != nil && res.Step >= 0 && res.Step < len(g.Runs) {
		g.Runs[res.Step] = res.Run.ID
	}
}
