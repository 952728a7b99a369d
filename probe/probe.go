// Package probe runs the tests of a plan that need no person on a volume, for
// the small program that measures on the customer's computer.
//
// It knows the core and the machine, no bench, no server and no database.
package probe

import (
	"context"
	"errors"
	"fmt"
	"time"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

// Step is what a running probe tells.
type Step struct {
	Test *job.Test
	Run  int // of Runs, from 1
	Runs int
	drivetest.Progress
}

// Outline is what a plan takes, said before anything is written.
type Outline struct {
	Tests   []job.Test
	Span    int64         // bytes of the test file
	Longest time.Duration // at most, the laying out not counted
	Writes  int64         // bytes at most, the laying out included
}

// usualMBs bounds what a drive is taken to write where only time bounds a test.
const usualMBs = 3000

// NewOutline picks the tests of a plan that a probe can run: its drive tests.
// What needs a person, or is not built yet, is left out and returned by name.
func NewOutline(tests []job.Test) (o Outline, left []string, err error) {
	for _, t := range tests {
		if t.Kind != job.OnDrive || t.Params == nil || t.Retired {
			left = append(left, t.Name)
			continue
		}
		if err := t.Params.Check(); err != nil {
			return o, left, fmt.Errorf("%s: %w", t.Name, err)
		}
		n := max(1, t.Wanted)
		o.Tests = append(o.Tests, t)
		o.Span = max(o.Span, (t.Params.SpanBytes+1<<20-1)&^(1<<20-1))
		o.Longest += time.Duration(float64(n) * t.Params.Seconds() * float64(time.Second))
		o.Writes += int64(n) * t.Params.WritesAtMost(usualMBs)
	}
	if len(o.Tests) == 0 {
		return o, left, errors.New("the plan has no drive test that could be run")
	}
	o.Writes += o.Span
	return o, left, nil
}

// Measure runs the tests of an outline on a volume. The runs that were finished
// are returned even with an error; a run that an error of the drive ended is
// among them, set aside. id gives each run its own.
func Measure(ctx context.Context, vol drivetest.Volume, o Outline, seed uint64, id func() string, tell func(Step)) (runs []job.Run, err error) {
	s, err := drivetest.Open(ctx, vol, o.Span, seed)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	for i := range o.Tests {
		t := &o.Tests[i]
		n := max(1, t.Wanted)
		for k := range n {
			rd, err := s.Measure(ctx, *t.Params, func(p drivetest.Progress) { tell(Step{t, k + 1, n, p}) })
			if rd != nil {
				r := job.FromReading(t, rd)
				r.ID, r.Sitting, r.At = id(), "s1", time.Now().Truncate(time.Millisecond)
				if err != nil {
					r.SetAside = &job.SetAside{Reason: "ended by an error of the drive: " + err.Error(), At: r.At}
				}
				runs = append(runs, r)
			}
			if err != nil {
				return runs, fmt.Errorf("%s: %w", t.Name, err)
			}
		}
	}
	return runs, nil
}
