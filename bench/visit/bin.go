package visit

import (
	"context"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
)

// Bin moves a job into the bin: it leaves all lists and stays unchanged until somebody restores or deletes it.
func (x *Visits) Bin(ctx context.Context, ch *bench.Change, id string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, id, func(j *job.Job) error {
		if j.Head.Binned.IsZero() {
			j.Head.Binned = x.jobs.Now()
		}
		return nil
	})
}

// Restore takes a job out of the bin.
func (x *Visits) Restore(ctx context.Context, ch *bench.Change, id string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, id, func(j *job.Job) error {
		j.Head.Binned = time.Time{}
		return nil
	})
}

// Delete deletes a job that is in the bin permanently, with its photos.
func (x *Visits) Delete(ctx context.Context, ch *bench.Change, id string) error {
	s, err := x.jobs.Load(ctx, id)
	if err != nil {
		return err
	}
	if s.Job.Head.Binned.IsZero() {
		return &bench.Refusal{Kind: bench.Conflict, Message: "This job is not in the bin.",
			Kept: "Nothing was deleted.",
			Do:   "Put it into the bin first."}
	}
	err = x.jobs.Write(ctx, ch, func(ch *bench.Change) error { return bench.Found(ch.Tx.DropJob(ctx, id)) })
	if err == nil {
		x.jobs.Tell(bench.Event{Type: bench.JobEvent, Job: id})
	}
	return err
}
