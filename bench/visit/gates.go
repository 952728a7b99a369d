package visit

import (
	"context"
	"slices"
	"strings"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/plan"
)

// Passing is what a technician states when passing a gate.
type Passing struct {
	Gate job.GateName `json:"gate"`
	Why  string       `json:"why"` // why it is passed although something is missing
	// OldDrive is what happened to the old drive, at the last gate.
	OldDrive job.Fate `json:"old_drive"`
}

// FateAsked reports whether the fate of the old drive is still missing: in an upgrade where nobody has stated it.
func FateAsked(j *job.Job) bool {
	then := j.SetupAs(job.Then)
	return j.Kind() == job.KindUpgrade && then != nil && j.FateOf(then.Drive) == ""
}

// PassGate passes a gate of the job's track. If something is missing, it is refused until the technician gives
// a reason. What was missing, and failed checks of the new drive, are stored with it.
func (x *Visits) PassGate(ctx context.Context, ch *bench.Change, id string, in Passing) (*bench.View, error) {
	in.Why = strings.TrimSpace(in.Why)
	unfit, err := x.unfit(ctx, id, in.Gate)
	if err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, id, func(j *job.Job) error {
		f := bench.Fields{}
		f.Text("why", in.Why)
		if in.Gate == job.GateHandedBack {
			asked := in.OldDrive != "" || FateAsked(j)
			f.Check(!asked || slices.Contains(job.Fates, in.OldDrive), "old_drive",
				"Choose what becomes of the old drive: returned, kept or destroyed.")
		}
		if err := f.Refusal(); err != nil {
			return err
		}
		if j.Gate(in.Gate) != nil {
			return bench.Refuse(bench.Conflict, "You have already passed this checkpoint.")
		}
		var lost []plan.Lost
		st := plan.Of(j)
		r := &bench.Refusal{Kind: bench.Lacking, Message: "Something is missing."}
		r.Kept, r.Do = "The job has not passed the checkpoint yet.", "Do it now, or give a reason for going ahead."
		switch in.Gate {
		case job.GateOldDriveOut:
			lost = st.BeforeOldDriveOut()
			r.Message = "Once the old drive is out, you can’t measure this any more."
		case job.GateCaseClosed:
			lost = st.BeforeCaseClosed()
		case job.GateMeasured:
			lost = st.BeforeMeasuredAgain()
		case job.GateHandedBack:
			lost = st.BeforeHandedBack()
		default:
			return bench.Refuse(bench.Missing, "There is no checkpoint %q.", in.Gate)
		}
		if len(lost) > 0 && in.Why == "" {
			r.Lost = lost
			return r
		}
		g := job.Gate{Name: in.Gate, At: x.jobs.Now(), Why: in.Why, OldDrive: in.OldDrive}
		for _, l := range lost {
			g.Missing = append(g.Missing, l.What)
		}
		g.Missing = append(g.Missing, unfit...)
		j.Head.Gates = append(j.Head.Gates, g)
		if in.Gate == job.GateHandedBack {
			j.StopClocks(g.At)
		}
		return nil
	})
}
