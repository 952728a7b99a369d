package probes

import (
	"slices"

	"nowthen/core/order"
	"nowthen/core/round"
)

// given is an order that a probe was given; it says which runs may come.
type given struct {
	ID      string `json:"id"`
	Sitting string `json:"sitting"`
	// Steps are the test ids of its steps in order, and Runs the ids of the runs received for each, "" if none.
	Steps []string `json:"steps"`
	Runs  []string `json:"runs"`
}

// maxGiven is how many orders of a probe are remembered: runs arrive late if the bench couldn't be reached.
const maxGiven = 20

// remember stores a given order.
func (r *record) remember(o *order.Order) {
	g := &given{ID: o.ID, Sitting: o.Sitting}
	for _, s := range round.Steps(o.Tests, o.Wanted) {
		g.Steps = append(g.Steps, s.Test.ID)
	}
	g.Runs = make([]string, len(g.Steps))
	r.Given = append(r.Given, g)
	r.Given = r.Given[max(0, len(r.Given)-maxGiven):]
}

// ordered returns the given order with an id, or nil. If it was given before orders were remembered, it is the
// one that the probe has.
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

// unasked returns why no order asked for a run, or "".
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

// came stores the run received for a step.
func (r *record) came(res *order.Result) {
	if g := r.ordered(res.Order); g != nil && res.Step >= 0 && res.Step < len(g.Runs) {
		g.Runs[res.Step] = res.Run.ID
	}
}
