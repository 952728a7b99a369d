package bench

import (
	"context"
	"slices"
	"strings"

	"nowthen/core/job"
	"nowthen/core/plan"
)

// Passing is what a technician says when a gate is passed.
type Passing struct {
	Gate string `json:"gate"`
	Why  string `json:"why"` // why it is passed although something is missing
	// OldDrive says at the last gate what became of the old drive.
	OldDrive string `json:"old_drive"`
}

var whereabouts = []string{"returned", "kept", "destroyed"}

// PassGate passes a gate of the job's track. Where something is missing it is
// refused until the technician says why; what was missing is kept with that.
func (b *Bench) PassGate(ctx context.Context, id string, in Passing) (*View, error) {
	in.Why = strings.TrimSpace(in.Why)
	return b.update(ctx, id, func(j *job.Job) error {
		f := fields{}
		checkText(f, "why", in.Why)
		if in.Gate == job.GateHandedBack {
			f.check(slices.Contains(whereabouts, in.OldDrive), "old_drive", "Say what became of the old drive: returned, kept or destroyed.")
		}
		if err := f.refusal(); err != nil {
			return err
		}
		if j.Gate(in.Gate) != nil {
			return conflict("That gate was passed already.")
		}
		var lost []plan.Lost
		r := conflict("Something is missing.")
		r.Kept, r.Do = "The job still stands before the gate.", "Make it up, or say why not."
		switch in.Gate {
		case job.GateOldDriveOut:
			lost = plan.BeforeOldDriveOut(j)
			r.Message = "Once the old drive is out, this can never be made up."
		case job.GateMeasured:
			lost = plan.BeforeMeasuredAgain(j)
		case job.GateHandedBack:
			lost = plan.BeforeHandedBack(j)
		default:
			return missing("There is no gate %q.", in.Gate)
		}
		if len(lost) > 0 && in.Why == "" {
			r.Lost = lost
			return r
		}
		g := job.Gate{Name: in.Gate, At: b.now(), Why: in.Why, OldDrive: in.OldDrive}
		for _, l := range lost {
			g.Missing = append(g.Missing, l.What)
		}
		j.Head.Gates = append(j.Head.Gates, g)
		return nil
	})
}
