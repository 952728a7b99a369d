package swap

import (
	"context"
	"slices"
	"strings"

	"nowthen/bench"
	"nowthen/core/checks"
	"nowthen/core/fitting"
	"nowthen/core/job"
)

// CheckByHand is the result of a check by hand: fine, wrong, or "" to clear it.
type CheckByHand struct {
	State job.CheckState `json:"state"`
	By    string         `json:"by"`
	// Fix is what fixed it; it is stored for the computer's model.
	Fix string `json:"fix"`
}

// TickCheck stores the result of a check by hand.
func (x *Swap) TickCheck(ctx context.Context, ch *bench.Change, jobID, check string, in CheckByHand) (*bench.View, error) {
	in.By, in.Fix = strings.TrimSpace(in.By), strings.TrimSpace(in.Fix)
	f := bench.Fields{}
	bench.OneOf(f, "state", in.State, "", checks.Fine, checks.Wrong)
	f.Name("by", in.By)
	f.Text("fix", in.Fix)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	if !checks.IsByHand(check) && check != fitting.Attached {
		return nil, bench.Refuse(bench.Missing, "There is no such check.")
	}
	return x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		j.Head.Looked = slices.DeleteFunc(j.Head.Looked, func(l job.CheckedByHand) bool { return l.Check == check })
		if in.State != "" {
			j.Head.Looked = append(j.Head.Looked,
				job.CheckedByHand{Check: check, State: in.State, At: x.jobs.Now(), By: in.By, Fix: in.Fix})
		}
		if c, _ := into(j); in.Fix != "" && c != nil && c.Maker+c.Model != "" {
			return x.keepFix(ctx, ch, c, check, in.Fix)
		}
		return nil
	})
}
