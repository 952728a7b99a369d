package visit

import (
	"context"
	"slices"
	"strings"

	"nowthen/bench"
	"nowthen/core/job"
)

// AddOther adds a further drive in the computer to all setups of the job, and what is on it.
func (x *Visits) AddOther(ctx context.Context, ch *bench.Change, jobID string, in bench.Drive,
	holds string) (*bench.View, error) {
	holds = strings.TrimSpace(holds)
	f := bench.Fields{}
	f.Input("drive", in)
	f.Name("holds", holds)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		d := in.Job()
		d.ID = bench.FreeID("d", len(j.Drives), func(id string) bool { return j.Drive(id) != nil })
		j.Drives = append(j.Drives, d)
		for i := range j.Setups {
			s := &j.Setups[i]
			s.Also = append(slices.Clone(s.Also), job.Also{Drive: d.ID, Holds: holds})
		}
		return nil
	})
}

// DropOther removes a further drive from all setups, unless content of a run was on it.
func (x *Visits) DropOther(ctx context.Context, ch *bench.Change, jobID, drive string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		is := func(a job.Also) bool { return a.Drive == drive }
		if !slices.ContainsFunc(j.Setups, func(s job.Setup) bool { return slices.ContainsFunc(s.Also, is) }) {
			return bench.NoSuch("other drive", drive)
		}
		if slices.ContainsFunc(j.Runs, func(r job.Run) bool { return r.On == drive }) {
			return &bench.Refusal{Kind: bench.Conflict, Message: "A run’s files are on that drive.",
				Kept: "The drive and all runs are unchanged.", Do: "Leave the drive in the list."}
		}
		for i := range j.Setups {
			s := &j.Setups[i]
			s.Also = slices.DeleteFunc(slices.Clone(s.Also), is)
		}
		if !slices.ContainsFunc(j.Setups,
			func(s job.Setup) bool { return s.Drive == drive || s.Replaces == drive || s.CacheDrive == drive }) {
			j.Drives = slices.DeleteFunc(j.Drives, func(d job.Drive) bool { return d.ID == drive })
		}
		return nil
	})
}
