// Package sittings records measurements that people make: the sittings with their conditions,
// figures read elsewhere, a probe's file, and which runs are set aside.
//
// It must not import HTTP, screens or other use cases.
package sittings

import (
	"context"
	"slices"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/sim"
)

// Sittings records sittings and the values that people read in them.
type Sittings struct{ jobs *bench.Jobs }

// New returns the sittings of a bench.
func New(jobs *bench.Jobs) *Sittings { return &Sittings{jobs: jobs} }

// Sit begins a sitting on a setup, with its conditions.
func (x *Sittings) Sit(ctx context.Context, ch *bench.Change, jobID, setup string,
	in bench.Conditions) (*bench.View, error) {
	f := bench.Fields{}
	f.Input("", in)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		c, s := in.Job(), j.Setup(setup)
		if s == nil {
			return bench.NoSuch("setup", setup)
		}
		if d := j.Drive(s.Drive); d.Simulated != "" {
			c = simConditions(d.Simulated, c)
		}
		if s.Role != job.Then && c.FirstAfterSwap == nil {
			first := !slices.ContainsFunc(j.Sittings, func(o job.Sitting) bool { return o.Setup == setup })
			c.FirstAfterSwap = &first
		}
		sit(j, setup, c, x.jobs.Now())
		return nil
	})
}

// sit adds a sitting on a setup.
func sit(j *job.Job, setup string, c job.Conditions, at time.Time) *job.Sitting {
	id := bench.FreeID("s", len(j.Sittings), func(id string) bool { return j.Sitting(id) != nil })
	j.Sittings = append(j.Sittings, job.Sitting{ID: id, Setup: setup, Started: at, Conditions: c})
	return &j.Sittings[len(j.Sittings)-1]
}

// simConditions fills in what a simulated computer reports.
func simConditions(drive string, c job.Conditions) job.Conditions {
	d, err := sim.Open(drive, 0)
	if err != nil {
		return c
	}
	fill, temp := d.Spec().FillPct, d.Spec().TempC
	if c.FillPct == nil {
		c.FillPct = &fill
	}
	if c.DriveTempC == nil {
		c.DriveTempC = &temp
	}
	return c
}

// Amend changes a sitting's conditions.
func (x *Sittings) Amend(ctx context.Context, ch *bench.Change, jobID, sitting string,
	in bench.Conditions) (*bench.View, error) {
	f := bench.Fields{}
	f.Input("", in)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		c, s := in.Job(), j.Sitting(sitting)
		if s == nil {
			return bench.NoSuch("session", sitting)
		}
		if c.FirstAfterSwap == nil {
			c.FirstAfterSwap = s.Conditions.FirstAfterSwap
		}
		// Events and battery measurements aren't part of the input and stay.
		if c.Encrypting != nil && *c.Encrypting {
			c.Pass = s.Conditions.Pass
		}
		c.Events, c.BatteryFromPct, c.BatteryToPct, c.Unknown = s.Conditions.Events, s.Conditions.BatteryFromPct,
			s.Conditions.BatteryToPct, s.Conditions.Unknown
		s.Conditions = c
		return nil
	})
}

// SetAside excludes a run from the comparison, with a reason. The run is kept.
func (x *Sittings) SetAside(ctx context.Context, ch *bench.Change, jobID, run, reason string) (*bench.View, error) {
	reason = strings.TrimSpace(reason)
	f := bench.Fields{}
	f.Check(reason != "", "reason", "Give a reason for setting the run aside. The report shows it.")
	f.Text("reason", reason)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		if !j.PutAside(run, &job.SetAside{Reason: reason, At: x.jobs.Now()}) {
			return bench.NoSuch("run", run)
		}
		return nil
	})
}

// TakeBack restores a run that was set aside.
func (x *Sittings) TakeBack(ctx context.Context, ch *bench.Change, jobID, run string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		if !j.PutAside(run, nil) {
			return bench.NoSuch("run", run)
		}
		return nil
	})
}

// Which selects runs of a job; empty members select all.
type Which struct {
	Test, Setup string
	After       string // the id of the last run of an earlier answer
	Limit       int    // at most so many; 0 is as many as one answer holds
}

// maxRunsOnce is the most runs of one answer.
const maxRunsOnce = 1000

// Runs returns runs of a job in the order in which they came, and the cursor of the next page, "" at the end.
func (x *Sittings) Runs(ctx context.Context, jobID string, which Which) (runs []job.Run, next string, err error) {
	if which.Limit <= 0 || which.Limit > maxRunsOnce {
		which.Limit = maxRunsOnce
	}
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, "", err
	}
	j := s.Job
	from := 0
	if which.After != "" {
		from = slices.IndexFunc(j.Runs, func(r job.Run) bool { return r.ID == which.After }) + 1
		if from == 0 {
			return nil, "", bench.Refuse(bench.Invalid, "That cursor does not come from an earlier answer.")
		}
	}
	runs = []job.Run{}
	for i := from; i < len(j.Runs); i++ {
		r := &j.Runs[i]
		if which.Test != "" && r.Test != which.Test || which.Setup != "" &&
			s.Index().Sitting(r.Sitting).Setup != which.Setup {
			continue
		}
		if len(runs) == which.Limit {
			return runs, runs[len(runs)-1].ID, nil
		}
		runs = append(runs, *r)
	}
	return runs, "", nil
}
