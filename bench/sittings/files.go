package sittings

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"nowthen/core/hardware/match"

	"nowthen/bench"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/plan"
)

// TakeSitting imports a probe's sitting file into a setup: a new sitting with the file's conditions and runs.
// Tests that measure the same as one of the plan are matched to it; others are added. Missing facts are filled
// in, and none is changed.
//
// A file from another computer is refused unless sure is set; the comparison then treats its runs as another
// computer's, too.
func (x *Sittings) TakeSitting(ctx context.Context, ch *bench.Change, jobID, setup, name string, data []byte,
	sure bool) (*bench.View, error) {
	f, err := jobfile.ReadSitting(name, data)
	var refused *jobfile.Refusal
	if errors.As(err, &refused) {
		return nil, bench.FileRefusal(refused)
	}
	if err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		s := j.Setup(setup)
		if s == nil {
			return bench.NoSuch("setup", setup)
		}
		if slices.ContainsFunc(f.Runs, func(r job.Run) bool { return j.Run(r.ID) != nil }) {
			c := bench.Refuse(bench.Conflict, "That file was already imported: one of its runs is in this job.")
			c.Kept = "Its runs are in the job once."
			return c
		}
		if other := otherComputer(j, s, f); other != "" {
			if !sure {
				r := bench.Refuse(bench.Conflict, "That file comes from another computer: %s.", other)
				r.Kind, r.Kept, r.Do = bench.Doubtful, "Nothing was imported yet.",
					"Check that it is the right file for the right job."
				return r
			}
			c := f.Computer
			c.ID = bench.FreeID("c", len(j.Computers), func(id string) bool { return j.Computer(id) != nil })
			j.Computers = append(j.Computers, c)
			s.Computer = c.ID
		}
		sitting := job.Sitting{ID: bench.FreeID("s", len(j.Sittings),
			func(id string) bool { return j.Sitting(id) != nil }), Setup: setup, Conditions: f.Conditions}
		for _, r := range f.Runs {
			if !r.At.IsZero() && (sitting.Started.IsZero() || r.At.Before(sitting.Started)) {
				sitting.Started = r.At
			}
		}
		if sitting.Started.IsZero() {
			sitting.Started = x.jobs.Now()
		}
		j.Sittings = append(j.Sittings, sitting)
		ids := map[string]string{} // of the file's tests in the job
		for i := range f.Tests {
			t := f.Tests[i]
			if slices.ContainsFunc(f.Runs, func(r job.Run) bool { return r.Test == t.ID }) {
				ids[t.ID] = plan.Adopt(j, t)
			}
		}
		for _, r := range f.Runs {
			r.Test, r.Sitting = ids[r.Test], sitting.ID
			if err := bench.AddRun(j, r, x.jobs.Now()); err != nil {
				return err
			}
		}
		fillIn(j, s, f)
		return nil
	})
}

// otherComputer says how a file's computer differs from a setup's, "" if not in anything known of both.
func otherComputer(j *job.Job, s *job.Setup, f *jobfile.SittingFile) string {
	facts := hardware.Facts{Computer: hardware.Computer{Maker: f.Computer.Maker, Model: f.Computer.Model}}
	if f.Facts != nil {
		facts.Computer = f.Facts.Computer
	}
	for _, c := range match.Contradictions(&facts, j, s) {
		if c.What == "computer" {
			return fmt.Sprintf("noted is %s, the file says %s", c.Noted, c.Seen)
		}
	}
	return ""
}

// fillIn fills in what the file has and the job lacks.
func fillIn(j *job.Job, s *job.Setup, f *jobfile.SittingFile) {
	c := j.Computer(s.Computer)
	for _, pair := range [][2]*string{{&c.Maker, &f.Computer.Maker}, {&c.Model, &f.Computer.Model},
		{&c.Processor, &f.Computer.Processor},
		{&c.Graphics, &f.Computer.Graphics}, {&c.System, &f.Computer.System}} {
		if *pair[0] == "" {
			*pair[0] = *pair[1]
		}
	}
	if c.MemoryBytes == 0 {
		c.MemoryBytes = f.Computer.MemoryBytes
	}
	if f.Attached.Port != "" || f.Attached.LinkMBs > 0 {
		s.Found(&f.Attached, nil)
	}
	if f.Facts != nil {
		match.FillIn(f.Facts, j, s)
	}
	d := j.Drive(s.Drive)
	for _, pair := range [][2]*string{{&d.Maker, &f.Drive.Maker}, {&d.Model, &f.Drive.Model},
		{&d.SerialDigest, &f.Drive.SerialDigest}, {&d.Interface, &f.Drive.Interface}} {
		if *pair[0] == "" {
			*pair[0] = *pair[1]
		}
	}
	if d.CapacityBytes == 0 {
		d.CapacityBytes = f.Drive.CapacityBytes
	}
	if d.Rated == nil {
		d.Rated = f.Drive.Rated
	}
}
