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
	"nowthen/core/filetest"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/round"
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
	// Rate is the live figure in Unit: IOPS for tests that count requests, ms for
	// the response time, else MB/s.
	Rate float64 `json:"rate"`
	Unit string  `json:"unit"`
	// BlockBytes is the block size under way in a size sweep, else 0.
	BlockBytes int64 `json:"block_bytes"`
	// Points are this run so far: rate, latency and temperature over its time.
	Points []LivePoint `json:"points"`
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

// LivePoint is one moment of a run under way.
type LivePoint struct {
	AtS       float64  `json:"at_s"`
	Rate      float64  `json:"rate"`
	LatencyMS float64  `json:"latency_ms"` // on average; 0 where it is not measured
	TempC     *float64 `json:"temp_c"`     // nil where the system does not tell
}

// livePoints is how many points are kept; a longer run keeps every second one,
// then every fourth, and so on.
const livePoints = 240

// running is a measuring under way, and what remains of it afterwards.
type running struct {
	cancel context.CancelFunc
	ended  chan struct{}

	mu     sync.Mutex
	state  Measuring
	told   time.Time
	stride int // one of so many progresses becomes a point
	since  int // progresses since the last point
}

// anew begins a run's points.
func (r *running) anew() {
	r.state.Points, r.stride, r.since = []LivePoint{}, 1, 0
}

// point adds a point, and thins them out when there are many.
func (r *running) point(p LivePoint) {
	if r.since++; r.since < r.stride {
		return
	}
	r.since = 0
	r.state.Points = append(r.state.Points, p)
	if len(r.state.Points) < livePoints {
		return
	}
	half := r.state.Points[:0]
	for i, p := range r.state.Points {
		if i%2 == 1 {
			half = append(half, p)
		}
	}
	r.state.Points, r.stride = half, 2*r.stride
}

func (r *running) snapshot() *Measuring {
	r.mu.Lock()
	defer r.mu.Unlock()
	s := r.state
	s.Points = slices.Clone(s.Points)
	return &s
}

// MeasureRequest asks for a round of drive tests.
type MeasureRequest struct {
	Sitting string `json:"sitting"`
	// Tests are the ids of tests that the program runs by itself; none means all
	// that lack runs.
	Tests []string `json:"tests"`
	// Runs is how often each is run; 0 means as often as runs are missing.
	Runs int `json:"runs"`
	// Dir is the folder that is measured. A simulated computer needs none.
	Dir string `json:"dir"`
	// Folder is the folder that is read, by tests that read one that is there.
	Folder string `json:"folder"`
}

// maxRuns bounds the runs of one test in one round.
const maxRuns = 20

// work is what a measuring has to do, worked out before it begins.
type work struct {
	tests []job.Test
	runs  []int   // by test
	left  float64 // s
}

func planWork(j *job.Job, setup string, in MeasureRequest, simulated bool) (*work, error) {
	f := fields{}
	f.check(in.Runs >= 0 && in.Runs <= maxRuns, "runs", fmt.Sprintf("A test is run between 1 and %d times in a round.", maxRuns))
	if err := f.refusal(); err != nil {
		return nil, err
	}
	for _, id := range in.Tests {
		if t := j.Test(id); t == nil {
			return nil, missing("There is no test %q in this job.", id)
		} else if !t.Automatic() {
			return nil, invalid("%s is not a test that the program can run by itself.", t.Name)
		}
	}
	w, folders := &work{}, 0
	for _, c := range plan.Coverage(j, setup) {
		t := j.Test(c.Test)
		if !t.Automatic() || len(in.Tests) > 0 && !slices.Contains(in.Tests, t.ID) {
			continue
		}
		n := in.Runs
		if n == 0 {
			n = c.Missing()
		}
		if n == 0 {
			continue
		}
		if t.ReadsFolder() && in.Folder == "" && !simulated && len(in.Tests) == 0 {
			folders++ // it waits until somebody names a folder
			continue
		}
		w.tests, w.runs = append(w.tests, *t), append(w.runs, n)
		w.left += float64(n) * round.Seconds(t)
	}
	if len(w.tests) == 0 {
		if folders > 0 {
			r := invalid("What is left reads a folder that is there; name one.")
			r.Fields = map[string]string{"folder": "Name the folder that is read: the same one on both sides."}
			return nil, r
		}
		c := conflict("Every test that the program runs by itself has its runs on this setup already.")
		c.Do = "Ask for further runs if you want to be surer."
		return nil, c
	}
	folder := in.Folder
	if simulated {
		folder = simulatedFolder
	}
	if err := round.Check(w.tests, folder); err != nil {
		r := invalid("%v.", err)
		if errors.Is(err, round.ErrNoFolder) {
			r.Fields = map[string]string{"folder": "Name the folder that is read: the same one on both sides."}
		}
		return nil, r
	}
	return w, nil
}

// simulatedFolder stands for the one folder that a simulated computer has.
const simulatedFolder = "simulated"

// Measure begins a round of tests that need no person in the background: on the folder given,
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
	drive := j.Drive(j.Setup(s.Setup).Drive)
	name := drive.Simulated
	rd, err := planWork(j, s.Setup, in, name != "")
	if err != nil {
		return nil, err
	}

	// Claim the bench before the folder is touched, so that two requests at
	// once cannot both begin.
	run, cancel := context.WithCancel(context.WithoutCancel(ctx))
	r := &running{cancel: cancel, ended: make(chan struct{}), state: Measuring{Job: jobID, Sitting: s.ID, Setup: s.Setup, Dir: in.Dir,
		State: MeasuringRuns, Test: rd.tests[0].ID, Unit: rd.tests[0].Unit, Run: 1, Runs: rd.runs[0], LeftS: rd.left, Points: []LivePoint{}}, stride: 1}
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

	o := round.Options{Tests: rd.tests, Seed: seed(j.Head.Number, s.Setup, len(j.Runs)), Folder: in.Folder}
	if drive.Rated != nil {
		o.MaxTempC = drive.Rated.MaxTempC
	}
	var place round.Place
	if name != "" {
		r.state.Simulated, r.state.Dir, o.Folder = true, "", simulatedFolder
		place, err = sim.Open(name, o.Seed)
	} else if round.Gentle(rd.tests) {
		place, err = machine.OpenReadOnly(in.Dir)
	} else {
		place, err = machine.OpenFolder(in.Dir)
	}
	var rnd *round.Round
	if err == nil {
		rnd, err = round.Open(run, place, o)
	}
	if err != nil {
		release()
		return nil, measuringRefusal(err, 0)
	}
	if name == "" {
		if err := b.store.NoteFolder(ctx, in.Dir); err != nil {
			release()
			return nil, errors.Join(err, rnd.Close())
		}
	}
	b.mu.Lock()
	b.measuring[jobID] = r
	b.mu.Unlock()
	b.tellMeasuring(r)

	go func() {
		defer release()
		err := b.measureRound(run, r, rd, rnd)
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

// measureRound runs the tests in turn; every run is on disk before the next
// begins.
func (b *Bench) measureRound(ctx context.Context, r *running, w *work, rnd *round.Round) (err error) {
	defer func() { err = errors.Join(err, rnd.Close()) }()
	left := w.left
	for i, t := range w.tests {
		for n := range w.runs[i] {
			r.mu.Lock()
			r.state.Test, r.state.Unit, r.state.Run, r.state.Runs = t.ID, t.Unit, n+1, w.runs[i]
			r.state.Done, r.state.Rate, r.state.BlockBytes = 0, 0, 0
			r.anew()
			r.mu.Unlock()
			run, err := rnd.Run(ctx, &t, b.watch(ctx, r, &t, left))
			if run != nil { // an error of the drive is a result, too
				if unkept := b.keepRun(ctx, r, run); unkept != nil {
					return errors.Join(err, unkept)
				}
			}
			if err != nil {
				return fmt.Errorf("%s: %w", t.Name, err)
			}
			left -= round.Seconds(&t)
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
			r.anew()
		}
		s.Laying, s.Done, s.HalfWidthPct, s.BlockBytes = p.Laying, p.Done, percent(p.HalfWidth), p.BlockBytes
		s.Rate, s.Unit = p.MBs, "MB/s"
		if t.Unit == "IOPS" && !p.Laying {
			s.Rate, s.Unit = p.MBs*1e6/float64(t.Params.BlockBytes), "IOPS"
		}
		if t.Unit == "ms" && !p.Laying && p.LatencyMS > 0 {
			s.Rate, s.Unit = p.LatencyMS, "ms"
		}
		at := LivePoint{AtS: p.Elapsed.Seconds(), Rate: s.Rate, LatencyMS: p.LatencyMS}
		if !math.IsNaN(p.TempC) {
			at.TempC = &p.TempC
		}
		r.point(at)
		s.Bytes += p.Bytes - bytes
		bytes = p.Bytes
		s.LeftS = left
		if !p.Laying {
			s.LeftS = left - p.Done*round.Seconds(t)
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

// keepRun stores a run. A finished one is kept even if the round is being
// cancelled.
func (b *Bench) keepRun(ctx context.Context, r *running, run *job.Run) error {
	run.Sitting = r.state.Sitting
	_, err := b.update(context.WithoutCancel(ctx), r.state.Job, func(j *job.Job) error { return b.addRun(j, *run) })
	if err != nil {
		return err
	}
	r.mu.Lock()
	if run.Kept() {
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
	case errors.Is(err, drivetest.ErrTooHot):
		r.Do = "Let the drive cool down, give it air, then measure again. The run that it ended is kept, with its temperature."
	case errors.Is(err, drivetest.ErrClock):
		r.Do = "Keep the computer from sleeping, then measure again."
	case errors.Is(err, filetest.ErrTooLong):
		r.Do = "Make the set smaller, or say why this test cannot be done on this drive."
	case errors.Is(err, syscall.EIO), errors.Is(err, syscall.ENODEV), errors.Is(err, syscall.ENXIO):
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
