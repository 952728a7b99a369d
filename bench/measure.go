package bench

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/machine"
	"nowthen/sim"
)

// States of a measuring.
const (
	MeasuringRuns      = "running"
	MeasuringDone      = "done"
	MeasuringCancelled = "cancelled"
	MeasuringFailed    = "failed"
)

// Measuring is a round of drive tests as it is now.
type Measuring struct {
	Job       string `json:"job"`
	Sitting   string `json:"sitting"`
	Setup     string `json:"setup"`
	Dir       string `json:"dir"`
	Simulated bool   `json:"simulated"`
	State     string `json:"state"`
	// Test, Run and Runs say which run of which test is under way.
	Test   string  `json:"test"`
	Run    int     `json:"run"`
	Runs   int     `json:"runs"`
	Laying bool    `json:"laying"` // the test file is being laid out
	Done   float64 `json:"done"`   // 0…1 of this run
	// Rate is the live rate in the test's unit, Rates its last points.
	Rate  float64   `json:"rate"`
	Unit  string    `json:"unit"`
	Rates []float64 `json:"rates"`
	// HalfWidthPct is how sure the rate is already: the half-width of its 95 %
	// interval, %; nil where it cannot be told yet.
	HalfWidthPct *float64 `json:"half_width_pct"`
	// Kept counts the runs that are on disk, Of those that were asked for.
	Kept    int      `json:"kept"`
	Of      int      `json:"of"`
	LeftS   float64  `json:"left_s"` // about what is left, s
	Bytes   int64    `json:"bytes"`  // written and read so far
	Refusal *Refusal `json:"refusal"`
}

// livePoints is how many points of the live rate are kept.
const livePoints = 120

// running is a measuring under way, and what remains of it afterwards.
type running struct {
	cancel context.CancelFunc
	ended  chan struct{}

	mu    sync.Mutex
	state Measuring
	told  time.Time
}

func (r *running) snapshot() *Measuring {
	r.mu.Lock()
	defer r.mu.Unlock()
	s := r.state
	s.Rates = slices.Clone(s.Rates)
	return &s
}

// MeasureRequest asks for a round of drive tests.
type MeasureRequest struct {
	Sitting string `json:"sitting"`
	// Tests are the ids of drive tests; none means all that lack runs.
	Tests []string `json:"tests"`
	// Runs is how often each is run; 0 means as often as runs are missing.
	Runs int `json:"runs"`
	// Dir is the folder that is measured. A simulated computer needs none.
	Dir string `json:"dir"`
}

// maxRuns bounds the runs of one test in one round.
const maxRuns = 20

// round is what a measuring has to do, worked out before it begins.
type round struct {
	tests []job.Test
	runs  []int // by test
	span  int64
	left  float64 // s
}

func planRound(j *job.Job, setup string, in MeasureRequest) (*round, error) {
	f := fields{}
	f.check(in.Runs >= 0 && in.Runs <= maxRuns, "runs", fmt.Sprintf("A test is run between 1 and %d times in a round.", maxRuns))
	if err := f.refusal(); err != nil {
		return nil, err
	}
	r := &round{}
	for _, id := range in.Tests {
		if t := j.Test(id); t == nil {
			return nil, missing("There is no test %q in this job.", id)
		} else if t.Kind != job.OnDrive || t.Params == nil {
			return nil, invalid("%s is not a drive test that can be run here.", t.Name)
		}
	}
	for _, c := range plan.Coverage(j, setup) {
		t := j.Test(c.Test)
		if t.Kind != job.OnDrive || t.Params == nil || len(in.Tests) > 0 && !slices.Contains(in.Tests, t.ID) {
			continue
		}
		n := in.Runs
		if n == 0 {
			n = c.Missing()
		}
		if n == 0 {
			continue
		}
		if t.Unit != "MB/s" && t.Unit != "IOPS" {
			return nil, invalid("%s is given in %q; a drive test gives MB/s or IOPS.", t.Name, t.Unit)
		}
		if err := t.Params.Check(); err != nil {
			return nil, invalid("%s cannot be run: %v.", t.Name, err)
		}
		r.tests, r.runs = append(r.tests, *t), append(r.runs, n)
		// A test file is whole MiB long.
		r.span = max(r.span, (t.Params.SpanBytes+1<<20-1)&^(1<<20-1))
		r.left += float64(n) * t.Params.Seconds()
	}
	if len(r.tests) == 0 {
		c := conflict("Every drive test has its runs on this setup already.")
		c.Do = "Ask for further runs if you want to be surer."
		return nil, c
	}
	return r, nil
}

// Measure begins a round of drive tests in the background: on the folder given,
// or on the simulated drive of a simulated computer. One round runs at a time,
// because two would disturb each other.
func (b *Bench) Measure(ctx context.Context, jobID string, in MeasureRequest) (*Measuring, error) {
	j, err := b.store.Job(ctx, jobID)
	if err != nil {
		return nil, wrap(err)
	}
	s := j.Sitting(in.Sitting)
	if s == nil {
		return nil, missing("There is no sitting %q in this job.", in.Sitting)
	}
	rd, err := planRound(j, s.Setup, in)
	if err != nil {
		return nil, err
	}

	// Claim the bench before the folder is touched, so that two requests at
	// once cannot both begin.
	run, cancel := context.WithCancel(context.WithoutCancel(ctx))
	r := &running{cancel: cancel, ended: make(chan struct{}), state: Measuring{Job: jobID, Sitting: s.ID, Setup: s.Setup, Dir: in.Dir,
		State: MeasuringRuns, Test: rd.tests[0].ID, Unit: rd.tests[0].Unit, Run: 1, Runs: rd.runs[0], LeftS: rd.left, Rates: []float64{}}}
	for _, n := range rd.runs {
		r.state.Of += n
	}
	b.mu.Lock()
	if b.active != nil {
		b.mu.Unlock()
		cancel()
		c := conflict("Another measuring is running; two at once would disturb each other.")
		c.Kept, c.Do = "The one that runs goes on.", "Wait for it, or cancel it first."
		return nil, c
	}
	b.active = r
	b.mu.Unlock()
	release := func() {
		cancel()
		b.mu.Lock()
		b.active = nil
		b.mu.Unlock()
		close(r.ended)
	}

	name := j.Drive(j.Setup(s.Setup).Drive).Simulated
	seedOf := seed(j.Head.Number, s.Setup, len(j.Runs))
	var vol drivetest.Volume
	if name != "" {
		r.state.Simulated, r.state.Dir = true, ""
		vol, err = sim.Open(name, seedOf)
	} else {
		vol, err = machine.OpenFolder(in.Dir)
	}
	if err == nil {
		err = drivetest.CheckRoom(vol.Facts(), rd.span)
	}
	if err != nil {
		release()
		return nil, measuringRefusal(err, 0)
	}
	if name == "" {
		if err := b.store.NoteFolder(ctx, in.Dir); err != nil {
			release()
			return nil, err
		}
	}
	b.mu.Lock()
	b.measuring[jobID] = r
	b.mu.Unlock()
	b.tellMeasuring(r)

	go func() {
		defer release()
		err := b.measureRound(run, r, rd, vol, seedOf)
		if name == "" {
			if err := b.store.ForgetFolder(context.WithoutCancel(ctx), in.Dir); err != nil {
				b.log.Error("the measured folder could not be forgotten", "error", err)
			}
		}
		r.mu.Lock()
		r.state.Laying, r.state.LeftS = false, 0
		switch {
		case err == nil:
			r.state.State = MeasuringDone
		case errors.Is(err, context.Canceled):
			r.state.State = MeasuringCancelled
		default:
			r.state.State = MeasuringFailed
			r.state.Refusal = measuringRefusal(err, r.state.Kept)
			b.log.Error("measuring failed", "job", jobID, "error", err)
		}
		r.mu.Unlock()
		b.tellMeasuring(r)
	}()
	return r.snapshot(), nil
}

// measureRound makes the test file and runs the tests in turn; every run is on
// disk before the next begins.
func (b *Bench) measureRound(ctx context.Context, r *running, rd *round, vol drivetest.Volume, seedOf uint64) (err error) {
	session, err := drivetest.Open(ctx, vol, rd.span, seedOf)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, session.Close()) }()
	left := rd.left
	for i, t := range rd.tests {
		for n := range rd.runs[i] {
			r.mu.Lock()
			r.state.Test, r.state.Unit, r.state.Run, r.state.Runs = t.ID, t.Unit, n+1, rd.runs[i]
			r.state.Done, r.state.Rate, r.state.Rates = 0, 0, []float64{}
			r.mu.Unlock()
			reading, err := session.Measure(ctx, *t.Params, b.watch(ctx, r, &t, left))
			if err != nil {
				err = fmt.Errorf("%s: %w", t.Name, err)
				if reading != nil { // an error of the drive is a result, too
					err = errors.Join(err, b.keepReading(ctx, r, &t, reading, err.Error()))
				}
				return err
			}
			left -= t.Params.Seconds()
			if err := b.keepReading(ctx, r, &t, reading, ""); err != nil {
				return err
			}
		}
	}
	return nil
}

// watch returns what is told while a test runs. It also holds a simulated
// drive back to the bench's pace.
func (b *Bench) watch(ctx context.Context, r *running, t *job.Test, left float64) func(drivetest.Progress) {
	var last time.Duration
	var bytes int64
	return func(p drivetest.Progress) {
		if step := p.Elapsed - last; r.state.Simulated && b.pace > 0 && step > 0 {
			select {
			case <-time.After(time.Duration(float64(step) / b.pace)):
			case <-ctx.Done():
			}
		}
		if p.Elapsed < last { // laying out has ended, the test itself begins
			bytes = 0
		}
		last = p.Elapsed
		r.mu.Lock()
		s := &r.state
		if s.Laying && !p.Laying {
			s.Rates = []float64{}
		}
		s.Laying, s.Done, s.HalfWidthPct = p.Laying, p.Done, percent(p.HalfWidth)
		s.Rate, s.Unit = p.MBs, "MB/s"
		if t.Unit == "IOPS" && !p.Laying {
			s.Rate, s.Unit = p.MBs*1e6/float64(t.Params.BlockBytes), "IOPS"
		}
		s.Rates = append(s.Rates, s.Rate)
		if over := len(s.Rates) - livePoints; over > 0 {
			s.Rates = s.Rates[over:]
		}
		s.Bytes += p.Bytes - bytes
		bytes = p.Bytes
		s.LeftS = left
		if !p.Laying {
			s.LeftS = left - p.Done*t.Params.Seconds()
		}
		quiet := time.Since(r.told) < tellEvery
		if !quiet {
			r.told = time.Now()
		}
		r.mu.Unlock()
		if !quiet {
			b.tellMeasuring(r)
		}
	}
}

// tellEvery bounds how often progress is told; a simulated drive is quicker
// than any eye.
const tellEvery = 80 * time.Millisecond

func (b *Bench) tellMeasuring(r *running) {
	s := r.snapshot()
	b.hub.tell(Event{Type: "measuring", Job: s.Job, Data: s})
}

// percent turns a share into %, and NaN into nothing.
func percent(share float64) *float64 {
	if math.IsNaN(share) {
		return nil
	}
	pct := share * 100
	return &pct
}

// keepReading turns a reading into a run and stores it; one that ended in an
// error is set aside with it.
func (b *Bench) keepReading(ctx context.Context, r *running, t *job.Test, rd *drivetest.Reading, failed string) error {
	run := job.FromReading(t, rd)
	run.Sitting = r.state.Sitting
	if failed != "" {
		run.SetAside = &job.SetAside{Reason: "ended by an error of the drive: " + failed, At: b.now()}
	}
	// A finished run is kept even if the round is being cancelled.
	_, err := b.update(context.WithoutCancel(ctx), r.state.Job, func(j *job.Job) error { return b.addRun(j, run) })
	if err != nil {
		return err
	}
	r.mu.Lock()
	if failed == "" {
		r.state.Kept++
	}
	r.mu.Unlock()
	b.tellMeasuring(r)
	return nil
}

// Measuring returns the last measuring of a job, or nil.
func (b *Bench) Measuring(jobID string) *Measuring {
	b.mu.Lock()
	r := b.measuring[jobID]
	b.mu.Unlock()
	if r == nil {
		return nil
	}
	return r.snapshot()
}

// CancelMeasuring ends the measuring of a job and waits until its test file is
// gone. Runs that were finished stay.
func (b *Bench) CancelMeasuring(ctx context.Context, jobID string) (*Measuring, error) {
	b.mu.Lock()
	r := b.measuring[jobID]
	b.mu.Unlock()
	if r == nil || r.snapshot().State != MeasuringRuns {
		c := conflict("Nothing is being measured in this job any more.")
		c.Kept = "The runs that were finished are kept."
		return nil, c
	}
	r.cancel()
	select {
	case <-r.ended:
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	return r.snapshot(), nil
}

// measuringRefusal says what went wrong with a volume, what was kept and what
// to do.
func measuringRefusal(err error, kept int) *Refusal {
	var already *Refusal
	if errors.As(err, &already) {
		return already
	}
	r := invalid("%s.", upperFirst(err.Error()))
	r.Kept = "Nothing was measured."
	switch kept {
	case 0:
	case 1:
		r.Kept = "The run that was finished is kept."
	default:
		r.Kept = fmt.Sprintf("The %d runs that were finished are kept.", kept)
	}
	switch {
	case errors.Is(err, drivetest.ErrNoDirectIO):
		r.Do = "Pick a folder that lies on the drive itself. Measuring through the page cache instead would measure memory."
	case errors.Is(err, drivetest.ErrNoRoom):
		r.Do = "Free some room, or make the test file smaller in the job's plan."
	case errors.Is(err, syscall.EIO):
		r.Do = "The drive itself reports an error. Save the customer's data before anything else."
	default:
		r.Do = "Look at the folder and its drive, then try again."
	}
	if errors.Is(err, drivetest.ErrNoRoom) || errors.Is(err, drivetest.ErrNoDirectIO) || kept == 0 {
		r.Fields = map[string]string{"dir": r.Message}
	}
	return r
}

func upperFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
