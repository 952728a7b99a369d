// Package probe runs the tests of a plan that need no person on a place, for
// the small program that measures on the customer's computer.
//
// It knows the core and the machine, no bench, no server and no database.
package probe

import (
	"context"
	"errors"
	"time"

	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/round"
)

// Step is the progress of a running probe.
type Step struct {
	round.Step
	drivetest.Progress
}

// Outline is the cost of a plan, printed before anything is written.
type Outline struct {
	Tests  []job.Test
	Folder string // that is read, by tests that read one
	Span   int64  // bytes of the largest test file
	Writes int64  // bytes at most, the laying out included
	Gentle bool   // nothing is written at all
}

// steps are the runs of the outline.
func (o *Outline) steps() []round.Step {
	wanted := make([]int, len(o.Tests))
	for i := range o.Tests {
		wanted[i] = runs(&o.Tests[i])
	}
	return round.Steps(o.Tests, wanted)
}

// Longest is how long it takes at most on a place.
func (o *Outline) Longest(place round.Place) time.Duration { return round.Longest(place, o.steps()) }

// usualMBs bounds what a drive is taken to write where only time bounds a test.
const usualMBs = 3000

// NewOutline picks the tests of a plan that a probe can run: its drive tests,
// those file tests that need no person, and the control of the processor. What
// is left out is returned by name; a test that reads a folder is, where none is
// named.
func NewOutline(tests []job.Test, folder string) (o Outline, left []string, err error) {
	o.Folder = folder
	for _, t := range tests {
		switch {
		case t.Retired:
			continue
		case !t.Automatic():
			left = append(left, t.Name)
			continue
		case t.ReadsFolder() && folder == "":
			left = append(left, t.Name+" (--read names the folder)")
			continue
		}
		o.Tests = append(o.Tests, t)
	}
	for _, step := range o.steps() {
		o.Writes += round.Writes(step.Test, usualMBs)
	}
	if len(o.Tests) == 0 {
		return o, left, errors.New("the plan has no unattended tests")
	}
	if err := round.Check(o.Tests, folder); err != nil {
		return o, left, err
	}
	span, extra := round.Span(o.Tests)
	o.Span, o.Writes, o.Gentle = max(span, extra), o.Writes+span, round.Gentle(o.Tests)
	return o, left, nil
}

func runs(t *job.Test) int { return max(1, t.Wanted) }

// Measure runs the tests of an outline on a place. The runs that were finished
// are returned even with an error; a run that an error of the drive ended is
// among them, set aside. maxTempC is the drive's limit where it is known, 0 where
// not. id gives each run its own.
func Measure(ctx context.Context, place round.Place, o Outline, seed uint64, maxTempC float64, id func() string,
	tell func(Step)) (kept []job.Run, cleared round.Cleared, err error) {
	rnd, err := round.Open(ctx, place, round.Options{Tests: o.Tests, Seed: seed, MaxTempC: maxTempC, Folder: o.Folder})
	if err != nil {
		return nil, cleared, err
	}
	err = rnd.All(ctx, o.steps(), round.Along{
		Tell: func(_ int, s round.Step, p drivetest.Progress) { tell(Step{s, p}) },
		Keep: func(_ int, _ round.Step, r *job.Run) error {
			r.ID, r.Sitting, r.At = id(), "s1", time.Now().Truncate(time.Millisecond)
			kept = append(kept, *r)
			return nil
		}})
	return kept, rnd.Cleared(), err
}
