package sittings

import (
	"context"
	"fmt"

	"nowthen/bench"
	"nowthen/core/job"
)

// Accept adds a waiting run to the job, even if it was discarded before.
func (x *Sittings) Accept(ctx context.Context, ch *bench.Change, jobID, id string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		w := j.Waits(id)
		if w == nil {
			return noneWaits(id)
		}
		run, from := w.Run, w.From
		j.EndWaiting(id)
		if from == job.FromLink {
			return bench.AddFollowUp(j, run, x.jobs.Now())
		}
		if j.Sitting(run.Sitting) == nil {
			return &bench.Refusal{Kind: bench.Conflict,
				Message: fmt.Sprintf("There is no session %s in this job that the run could belong to.", run.Sitting),
				Kept:    "The run still waits.", Do: "Discard it, and measure again."}
		}
		return bench.AddRun(j, run, x.jobs.Now())
	})
}

// Discard discards a waiting run. It stays with the job and can still be accepted.
func (x *Sittings) Discard(ctx context.Context, ch *bench.Change, jobID, id string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		w := j.Waits(id)
		if w == nil {
			return noneWaits(id)
		}
		now := x.jobs.Now()
		w.Discarded = &now
		return nil
	})
}

func noneWaits(id string) error {
	return &bench.Refusal{Kind: bench.Missing, Message: fmt.Sprintf("No run %s waits in this job.", id),
		Kept: "Nothing was changed.", Do: "Somebody may have accepted it already: look at the runs."}
}
