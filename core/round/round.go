// Package round runs the unattended tests of a plan on a place: drive tests, file tests and the
// processor control. The bench and the probe both use it.
package round

import (
	"context"
	"errors"
	"fmt"
	"math"
	"runtime/debug"
	"slices"
	"sync/atomic"
	"time"

	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/filetest"
	"nowthen/core/job"
)

// Place is where a round is run: a folder on a drive of a computer, or a
// simulated drive of a simulated one.
type Place interface {
	drivetest.Volume
	filetest.Place
	// WorkProcessor runs the control's work on the processor. done is called with the finished share, 0…1.
	WorkProcessor(ctx context.Context, done func(float64)) (*job.ProcessorWork, error)
}

// Options of a round.
type Options struct {
	Tests    []job.Test
	Seed     uint64
	MaxTempC float64 // the drive's limit from its label; 0: not known
	Folder   string  // that is read, by tests that read one
}

// Round holds the test file over the tests of a round.
type Round struct {
	place   Place
	session *drivetest.Session
	folder  string
	span    int64 // of the test file that the tests share
	// hung is set once the drive was given up on: it may answer at any time or never.
	hung    atomic.Bool
	cleared Cleared
}

// Cleared says what happened to the test files of a round.
type Cleared struct {
	// Left: they are removed when the drive answers, or at the next start.
	Left bool
	// Trimmed: the drive was told that their blocks are free; else Untrimmed says why not,
	// nil where there was nothing to trim.
	Trimmed   bool
	Untrimmed error
}

// Step is one run of a round.
type Step struct {
	Test      *job.Test
	Run, Runs int
	// Repeat: the round's first test once more, which shows whether the drive has drifted.
	Repeat bool
}

// Steps are the runs of a round: each test as often as it is wanted, and of two tests or
// more the first that takes the usual time once more at the end.
func Steps(tests []job.Test, runs []int) []Step {
	var steps []Step
	var again *job.Test
	for i := range tests {
		for n := range runs[i] {
			steps = append(steps, Step{Test: &tests[i], Run: n + 1, Runs: runs[i]})
		}
		if again == nil && runs[i] > 0 && catalogue.Usual(&tests[i]) {
			again = &tests[i]
		}
	}
	if len(tests) > 1 && again != nil {
		steps = append(steps, Step{Test: again, Run: 1, Runs: 1, Repeat: true})
	}
	return steps
}

// most is how long one run of a test takes at most.
func most(t *job.Test) time.Duration {
	if t.FileWork != nil {
		return filetest.Longest
	}
	return time.Duration(Seconds(t) * float64(time.Second))
}

// Longest is how long the steps of a round take at most on a place: laying out and
// removing the file, the runs, and the waits between them for a drive to cool that tells
// its temperature.
func Longest(place Place, steps []Step) time.Duration {
	cools := false
	if temperature := place.Can().Temperature; temperature != nil {
		c, _ := temperature()
		cools = !math.IsNaN(c)
	}
	return longest(steps, false, cools)
}

// MostLeft is how long a round still takes at most, from a progress of its step at; before the step has begun it is the
// zero Progress, laying.
func MostLeft(steps []Step, at int, p drivetest.Progress) time.Duration {
	lays := func(s Step) bool { return s.Test.Params != nil && !s.Test.Params.OwnFile() }
	laid := lays(steps[at]) && !p.Laying || slices.ContainsFunc(steps[:at], lays)
	left := longest(steps[at:], laid, true)
	if !p.Laying {
		left -= min(p.Elapsed, most(steps[at].Test))
	}
	return left
}

// longest is [Longest]; laid: the file is there already, cools: the drive may be waited for to cool.
func longest(steps []Step, laid, cools bool) time.Duration {
	var tests []job.Test
	longest := time.Duration(0)
	for _, s := range steps {
		tests = append(tests, *s.Test)
		longest += most(s.Test)
	}
	if slices.ContainsFunc(tests, func(t job.Test) bool { return t.Params != nil }) {
		longest += drivetest.Unanswered // once: it ends the round
	}
	if span, _ := Span(tests); span > 0 && !laid {
		longest += drivetest.LayingTime(span) + drivetest.PauseAfterLaying(span)
	}
	if cools && len(steps) > 1 {
		longest += time.Duration(len(steps)-1) * drivetest.MostCooling
	}
	return longest
}

// Gentle reports whether none of the tests writes anything.
func Gentle(tests []job.Test) bool {
	for i := range tests {
		// Even a test that reads has a test file written for it.
		if p := tests[i].Params; p != nil && !p.Existing || Writes(&tests[i], 1) > 0 {
			return false
		}
	}
	return true
}

// Check reports what keeps tests from being run by themselves, or nil.
func Check(tests []job.Test, folder string) error {
	for i := range tests {
		t := &tests[i]
		var err error
		switch {
		case !t.Automatic():
			err = errors.New("it needs a person")
		case t.Params != nil:
			err = t.Params.Check()
			if err == nil && t.Unit != "MB/s" && t.Unit != "IOPS" && t.Unit != "ms" {
				err = fmt.Errorf("it is given in %q; a drive test gives MB/s, IOPS or ms", t.Unit)
			}
		case t.FileWork != nil:
			err = t.FileWork.Check()
			if err == nil && t.Unit != "s" {
				err = fmt.Errorf("it is given in %q; a file test gives s", t.Unit)
			}
			if err == nil && t.ReadsFolder() && folder == "" {
				err = ErrNoFolder
			}
		}
		if err != nil {
			return fmt.Errorf("%s cannot be run: %w", t.Name, err)
		}
	}
	return nil
}

// ErrNoFolder means that a test reads a folder and none was named.
var ErrNoFolder = errors.New("it reads a folder, and none was named")

// Span is the size of the test file that the tests share, and the most that a
// test makes beside it (a file of its own, or the files of a file test), bytes.
func Span(tests []job.Test) (span, extra int64) {
	var ws []drivetest.Workload
	files := int64(0)
	for _, t := range tests {
		switch {
		case t.Params != nil:
			ws = append(ws, *t.Params)
		case t.FileWork != nil:
			files = max(files, t.FileWork.Writes())
		}
	}
	span, extra = drivetest.SpanOf(ws)
	return span, max(extra, files)
}

// Seconds is about how long one run takes at most.
func Seconds(t *job.Test) float64 {
	switch {
	case t.Params != nil:
		return t.Params.Seconds() + t.Params.WarmSeconds
	case t.FileWork != nil:
		return 90
	}
	return 12
}

// Writes is how many bytes one run writes at most beyond the shared test file,
// on a drive that writes mbs MB/s.
func Writes(t *job.Test, mbs float64) int64 {
	switch {
	case t.Params != nil:
		return t.Params.WritesAtMost(mbs)
	case t.FileWork != nil:
		return t.FileWork.Writes()
	}
	return 0
}

// Open checks the tests and prepares the place for them.
func Open(ctx context.Context, place Place, o Options) (*Round, error) {
	if err := Check(o.Tests, o.Folder); err != nil {
		return nil, err
	}
	span, extra := Span(o.Tests)
	if span+extra > 0 {
		if err := drivetest.CheckRoom(place.Facts(), span+extra); err != nil {
			return nil, err
		}
	}
	s, err := drivetest.Open(ctx, place, span, o.Seed)
	if err != nil {
		return nil, err
	}
	s.MaxTempC = o.MaxTempC
	return &Round{place: place, session: s, folder: o.Folder, span: span}, nil
}

// Close removes the test file. That of a drive that was given up on is removed with the
// program's end, or at its next start.
func (r *Round) Close() error {
	if r.hung.Load() {
		r.cleared.Left = true
		return nil
	}
	var untrimmed error
	trim := r.place.Can().Trim
	trims := trim != nil && r.span > 0
	err := r.within(context.Background(), removingTime, func(context.Context) error {
		err := r.session.Close()
		if err == nil && trims {
			untrimmed = trim()
		}
		return err
	})
	switch {
	case err != nil:
		r.cleared.Left = true
	case trims:
		r.cleared.Trimmed, r.cleared.Untrimmed = untrimmed == nil, untrimmed
	}
	return err
}

// Cleared says what happened to the test files once the round is closed.
func (r *Round) Cleared() Cleared { return r.cleared }

// ErrHung means that a drive didn't answer in time.
var ErrHung = errors.New("the drive does not answer")

const (
	// patience is how long a drive has to answer a request that was to end.
	patience = 5 * time.Second
	// overTime is how much longer than expected a run may take on a drive that still answers.
	overTime = 2 * time.Minute
	// removingTime is what removing the test file may take.
	removingTime = time.Minute
)

// within does something on a real drive that may never answer, and gives it up when the
// context has ended for a while, or after a limit. What was given up continues unheard.
func (r *Round) within(ctx context.Context, limit time.Duration, do func(context.Context) error) error {
	if r.place.Facts().Simulated {
		return do(ctx) // whose time is its own
	}
	done := make(chan error, 1)
	inner, cancel := context.WithCancel(ctx)
	defer cancel()
	go func() { done <- do(inner) }()
	late := time.NewTimer(limit)
	defer late.Stop()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	case <-late.C:
		cancel()
	}
	last := time.NewTimer(patience)
	defer last.Stop()
	select {
	case err := <-done:
		return err
	case <-last.C:
		r.hung.Store(true)
		return errors.Join(ctx.Err(),
			fmt.Errorf("%w; its test file is removed when it does, or at the next start", ErrHung))
	}
}

// Along is what goes along with the steps of a round; nil members do nothing.
type Along struct {
	// Before is called before a step; its error ends the round.
	Before func(at int, s Step) error
	// Tell is told while a step runs.
	Tell func(at int, s Step, p drivetest.Progress)
	// Keep keeps a step's run, before the next begins; its error ends the round.
	Keep func(at int, s Step, run *job.Run) error
}

// All runs steps in turn and closes the round. A run that an error of the drive ended is kept, too: it is a result. A
// panic is a [PanicError].
func (r *Round) All(ctx context.Context, steps []Step, a Along) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = &PanicError{p, debug.Stack()}
		}
		err = errors.Join(err, r.Close())
	}()
	for at, s := range steps {
		if a.Before != nil {
			if err := a.Before(at, s); err != nil {
				return err
			}
		}
		run, err := r.do(ctx, s, func(p drivetest.Progress) {
			if a.Tell != nil {
				a.Tell(at, s, p)
			}
		})
		if run != nil && a.Keep != nil {
			if unkept := a.Keep(at, s, run); unkept != nil {
				return errors.Join(err, unkept)
			}
		}
		if err != nil {
			return fmt.Errorf("%s: %w", s.Test.Name, err)
		}
	}
	return nil
}

// PanicError says that the measuring program failed, not the drive.
type PanicError struct {
	Value any
	Stack []byte
}

func (e *PanicError) Error() string { return fmt.Sprintf("the measuring program failed: %v", e.Value) }

// do runs a step as [Round.Run] runs a test, and marks a repeated run.
func (r *Round) do(ctx context.Context, s Step, tell func(drivetest.Progress)) (*job.Run, error) {
	run, err := r.Run(ctx, s.Test, tell)
	if run != nil {
		run.Repeat = s.Repeat
	}
	return run, err
}

// Run runs a test once. The run has no id, sitting or time yet. With an error of
// the drive comes, where anything was measured, the run up to it, set aside; one
// that the drive's heat ended is kept.
func (r *Round) Run(ctx context.Context, t *job.Test, tell func(drivetest.Progress)) (*job.Run, error) {
	if r.hung.Load() {
		return nil, ErrHung
	}
	// The first run lays the file that all tests share.
	limit := most(t) + drivetest.LayingTime(r.span) + drivetest.PauseAfterLaying(r.span) + drivetest.MostCooling +
		overTime
	type result struct {
		run *job.Run
		err error
	}
	var got atomic.Pointer[result]
	err := r.within(ctx, limit, func(ctx context.Context) error {
		run, err := r.measure(ctx, t, func(p drivetest.Progress) {
			if !r.hung.Load() {
				tell(p)
			}
		})
		got.Store(&result{run, err})
		return err
	})
	if g := got.Load(); g != nil && !r.hung.Load() {
		return g.run, g.err
	}
	return nil, err
}

func (r *Round) measure(ctx context.Context, t *job.Test, tell func(drivetest.Progress)) (*job.Run, error) {
	switch {
	case t.Params != nil:
		rd, err := r.session.Measure(ctx, *t.Params, tell)
		if rd == nil {
			return nil, err
		}
		run := job.FromReading(t, rd)
		if err != nil && !errors.Is(err, drivetest.ErrTooHot) {
			run.SetAside = &job.SetAside{Reason: "ended by an error of the drive: " + err.Error()}
		}
		return &run, err
	case t.FileWork != nil:
		rd, err := filetest.Measure(ctx, r.place, *t.FileWork, r.folder, tell)
		if err != nil {
			return nil, err
		}
		run := job.FromFiles(t, rd)
		return &run, nil
	}
	rd, err := r.place.WorkProcessor(ctx, func(share float64) {
		tell(drivetest.Progress{Done: share, TempC: math.NaN(), HalfWidth: math.NaN(), Elapsed: r.place.Now()})
	})
	if err != nil {
		return nil, err
	}
	run := job.FromProcessor(t, rd, r.place.Facts().Simulated)
	return &run, nil
}
