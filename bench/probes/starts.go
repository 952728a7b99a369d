package probes

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/catalogue"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/stopwatch"
)

// StartsRequest asks for starts that a computer's system recorded as runs.
type StartsRequest struct {
	Sitting string `json:"sitting"`
	Test    string `json:"test"`
	// At are their times, as in the probe's facts.
	At []time.Time `json:"at"`
}

// recorded are the starts that a computer's system recorded with a setup's drive in it, with times by the
// bench's clock. A cloned drive also carries the old drive's record, which is left out.
func recorded(j *job.Job, r *record, setup string) []hardware.Start {
	s := j.Setup(setup)
	if s == nil {
		return nil
	}
	out := j.Gate(job.GateOldDriveOut)
	if out == nil && s.Role != job.Then {
		return nil // which of them were with this drive, nobody can tell
	}
	var list []hardware.Start
	for _, start := range r.Facts.Starts {
		start.At = start.At.Add(time.Duration(r.Behind * float64(time.Second)))
		if out == nil || start.At.Before(out.At) == (s.Role == job.Then) {
			list = append(list, start)
		}
	}
	return list
}

// TakeStarts imports starts that a computer's system recorded as runs of a sitting. None is imported twice.
func (x *Probes) TakeStarts(ctx context.Context, ch *bench.Change, jobID, id string,
	in StartsRequest) (*bench.View, error) {
	r, err := x.probe(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		s, t := j.Sitting(in.Sitting), j.Test(in.Test)
		switch {
		case s == nil:
			return bench.NoSuch("session", in.Sitting)
		case t == nil:
			return bench.NoSuch("test", in.Test)
		case t.What != catalogue.StartRecorded:
			return bench.Refuse(bench.Invalid,
				"%s takes no recorded starts. Add “Start, as the system recorded it” to the plan.", t.Name)
		case x.shown(j, r).Setup != s.Setup:
			c := bench.Refuse(bench.Conflict, "This isn’t the drive in the computer now.")
			c.Kept, c.Do = "Nothing was measured.",
				"Measure the setup whose drive is in the computer, or correct this setup’s drive."
			return c
		}
		list := recorded(j, r, s.Setup)
		slices.Reverse(list) // in the order in which they were
		for _, at := range in.At {
			if !slices.ContainsFunc(list, func(start hardware.Start) bool { return sameMoment(start.At, at) }) {
				return bench.Refuse(bench.Missing, "The probe doesn’t list that start with this drive. Check again.")
			}
		}
		taken := j.RunsOf(t.ID, s.Setup)
		for _, start := range list {
			wanted := slices.ContainsFunc(in.At, func(at time.Time) bool { return sameMoment(start.At, at) })
			if !wanted || slices.ContainsFunc(taken, func(run job.Run) bool { return sameMoment(run.At, start.At) }) {
				continue
			}
			resolution := max(start.Resolution, 0.001) // a run's value has three decimals
			u := stopwatch.Automatic(resolution)
			run := job.Run{Test: t.ID, Sitting: s.ID, At: start.At, Value: math.Round(start.Seconds*1000) / 1000,
				Method: job.SystemRecord, U: &u, Note: phases(start), Simulated: r.Simulated != ""}
			if err := bench.AddRun(j, run, x.jobs.Now()); err != nil {
				return err
			}
		}
		return nil
	})
}

// sameMoment reports whether two times are of the same start. A clock's offset is measured at each hello and
// varies a little; no computer starts twice within that.
func sameMoment(a, b time.Time) bool { return a.Sub(b).Abs() < sameTime }

// phases are the phases of a start, as far as its system recorded them.
func phases(s hardware.Start) string {
	var parts []string
	for _, name := range []string{"firmware", "loader", "kernel", "initrd", "system", "desktop"} {
		if v, ok := s.Phases[name]; ok {
			parts = append(parts, fmt.Sprintf("%s %.3g s", name, v))
		}
	}
	return strings.Join(parts, ", ")
}
