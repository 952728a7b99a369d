package sittings

import (
	"context"
	"fmt"
	"slices"

	"nowthen/bench"
	"nowthen/core/job"
)

// Happening is something that went wrong while measuring.
type Happening struct {
	Setup string        `json:"setup"`
	What  job.EventKind `json:"what"` // crash restart hang
	Test  string        `json:"test"` // during which, or ""
}

// NoteEvent stores that something went wrong in the last sitting on a setup, now. If there is no sitting yet,
// it begins one with unknown conditions.
func (x *Sittings) NoteEvent(ctx context.Context, ch *bench.Change, jobID string, in Happening) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		f := bench.Fields{}
		f.Check(slices.Contains(job.EventKinds, in.What), "what",
			fmt.Sprintf("Choose one of %s.", job.Join(job.EventKinds)))
		f.Check(in.Test == "" || j.Test(in.Test) != nil, "test", "There is no such test in this job.")
		if err := f.Refusal(); err != nil {
			return err
		}
		if j.Setup(in.Setup) == nil {
			return bench.NoSuch("setup", in.Setup)
		}
		s := bench.LastSitting(j, in.Setup)
		if s == nil {
			s = sit(j, in.Setup, job.Conditions{}, x.jobs.Now())
		}
		s.Conditions.Events = append(slices.Clone(s.Conditions.Events),
			job.Event{At: x.jobs.Now(), What: in.What, Test: in.Test})
		return nil
	})
}

// ForgetEvent removes the last event of a setup's last sitting, which was entered by mistake.
func (x *Sittings) ForgetEvent(ctx context.Context, ch *bench.Change, jobID, setup string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		s := bench.LastSitting(j, setup)
		if s == nil || len(s.Conditions.Events) == 0 {
			return bench.Refuse(bench.Missing, "No crash, hang or restart was noted.")
		}
		n := len(s.Conditions.Events) - 1
		s.Conditions.Events = slices.Clone(s.Conditions.Events[:n])
		return nil
	})
}
