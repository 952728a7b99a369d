// Package measuring runs rounds of tests that need no person, on this computer and
// on simulated ones, one at a time, because two would disturb each other.
//
// It must not import HTTP, screens or other use cases.
package measuring

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"math"
	"runtime/debug"
	"slices"
	"sync"
	"syscall"
	"time"

	"nowthen/bench"
	"nowthen/core/drivetest"
	"nowthen/core/filetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/plan"
	"nowthen/core/round"
	"nowthen/core/words"
	"nowthen/machine"
	"nowthen/sim"
	"nowthen/store"
)

// States of a measuring.
const (
	Running   = "running"
	Done      = "done"
	Cancelled = "cancelled"
	Failed    = "failed"
	// Interrupted: the program ended while it ran.
	Interrupted = "interrupted"
)

// Store is what measuring needs of a store.
type Store interface {
	NoteFolder(ctx context.Context, dir string) error
	Folders(ctx context.Context) ([]string, error)
	ForgetFolder(ctx context.Context, dir string) error
	SaveRound(ctx context.Context, id, jobID string, running bool, body []byte) error
	LastRound(ctx context.Context, jobID string) ([]byte, error)
	RunningRounds(ctx context.Context) ([]store.Round, error)
}

// Rounds measures.
type Rounds struct {
	jobs  *bench.Jobs
	store Store
	log   *slog.Logger
	// pace is how many virtual seconds a simulated measuring passes in a real one, so
	// that a person can watch it; 0 is as fast as it goes.
	pace float64
	// around stands between a round and its place in tests.
	around func(round.Place) round.Place
	// battery tells how full this computer's battery is.
	battery func() (pct float64, ok bool)
	// hardware tells what this computer is; nil tells nothing.
	hardware func(context.Context) *hardware.Facts
	probes   Probes

	mu     sync.Mutex
	last   map[string]*running // of each job, since the program started
	active *running            // the one that runs, or nil
}

// Options are what measuring can be told.
type Options struct {
	Log  *slog.Logger
	Pace float64
	// Hardware tells what the bench's own computer is, so that a round notes where it was; nil notes nothing.
	Hardware func(context.Context) *hardware.Facts
}

// New returns the rounds of a bench.
func New(jobs *bench.Jobs, s Store, o Options) *Rounds {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	return &Rounds{jobs: jobs, store: s, log: o.Log, pace: o.Pace, battery: machine.Battery, hardware: o.Hardware,
		last: map[string]*running{}}
}

// Recover puts right what a program left that was ended while it measured: test
// files are removed, and rounds that ran are said to be interrupted. Only a program
// that is alone on the data folder may do so.
func (x *Rounds) Recover(ctx context.Context) error {
	rounds, err := x.store.RunningRounds(ctx)
	if err != nil {
		return err
	}
	for _, r := range rounds {
		var m Measuring
		if err := json.Unmarshal(r.Body, &m); err != nil {
			x.log.Error("a round of measuring can't be read and is left as it is", "job", r.Job, "error", err)
			continue
		}
		if goesOn, err := x.resume(ctx, r.ID, m); err != nil {
			return err
		} else if goesOn {
			continue
		}
		m.State, m.Laying, m.LeftS = Interrupted, false, 0
		body, err := json.Marshal(&m)
		if err != nil {
			return err
		}
		if err := x.store.SaveRound(ctx, r.ID, r.Job, false, body); err != nil {
			return err
		}
	}
	dirs, err := x.store.Folders(ctx)
	if err != nil {
		return err
	}
	for _, dir := range dirs {
		n, err := machine.Sweep(dir)
		if err != nil {
			// The folder may be on a drive that is gone; look again next time.
			x.log.Warn("left test files could not be looked for", "folder", dir, "error", err)
			continue
		}
		if n > 0 {
			x.log.Info("removed left test files", "folder", dir, "files", n)
		}
		if err := x.store.ForgetFolder(ctx, dir); err != nil {
			return err
		}
	}
	return nil
}

// Close cancels what is measuring and waits until its test file is gone, or until
// the context ends: a drive that hangs answers nobody.
func (x *Rounds) Close(ctx context.Context) error {
	x.mu.Lock()
	r := x.active
	x.mu.Unlock()
	if r == nil {
		return nil
	}
	r.cancel()
	select {
	case <-r.ended:
		return nil
	case <-ctx.Done():
		return errors.New("the drive that was being measured does not answer; its test file is removed at the next start")
	}
}

// Wait waits until the round of a job has ended and returns how.
func (x *Rounds) Wait(ctx context.Context, jobID string) (*Measuring, error) {
	x.mu.Lock()
	r := x.last[jobID]
	x.mu.Unlock()
	if r == nil {
		return nil, bench.Refuse(bench.Missing, "nothing-was-measured-in")
	}
	select {
	case <-r.ended:
		return r.snapshot(), nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// Active is what is being measured now: on this computer first, then on those of probes.
func (x *Rounds) Active() []*Measuring {
	x.mu.Lock()
	list := []*Measuring{}
	if x.active != nil {
		list = append(list, x.active.snapshot())
	}
	there := slices.Collect(maps.Values(x.last))
	x.mu.Unlock()
	for _, r := range there {
		if s := r.snapshot(); s.Probe != "" && s.State == Running {
			list = append(list, s)
		}
	}
	slices.SortStableFunc(list,
		func(a, b *Measuring) int { return cmp.Or(cmp.Compare(a.Probe, b.Probe), cmp.Compare(a.Job, b.Job)) })
	return list
}

// Measuring is a round of drive tests as it is now.
type Measuring struct {
	Job       string `json:"job"`
	Sitting   string `json:"sitting"`
	Setup     string `json:"setup"`
	Dir       string `json:"dir"`
	Simulated bool   `json:"simulated"`
	State     string `json:"state"`
	// Probe is the one on whose computer it is measured, "" where that is this one.
	Probe string `json:"probe"`
	// Test, Run and Runs say which run of which test is under way.
	Test   string `json:"test"`
	Run    int    `json:"run"`
	Runs   int    `json:"runs"`
	Laying bool   `json:"laying"` // the test file is being laid out
	// Waiting is what it waits for to pass before it goes on, in words, "" where it does not.
	Waiting string  `json:"waiting"`
	Done    float64 `json:"done"` // 0…1 of this run
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
	Kept  int     `json:"kept"`
	Of    int     `json:"of"`
	LeftS float64 `json:"left_s"` // about what is left, s
	Bytes int64   `json:"bytes"`  // written and read so far
	// Cleared says what became of the test files, once the round has ended.
	Cleared string         `json:"cleared"`
	Refusal *bench.Refusal `json:"refusal"`
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
	id     string
	cancel context.CancelFunc
	ended  chan struct{}
	// battery is how full it was as the round began, %; nil where it is not this computer's,
	// or it has none.
	battery *float64
	// steps are those of a round on a probe's computer, whose order has the round's id.
	steps []round.Step

	mu     sync.Mutex
	at     int // the step that a probe was last heard of
	state  Measuring
	told   time.Time
	stride int // one of so many progresses becomes a point
	since  int // progresses since the last point
	// elapsed and moved are those of the last progress of this run.
	elapsed time.Duration
	moved   int64
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

// runs tells whether a round has not ended; none does not.
func (r *running) runs() bool {
	if r == nil {
		return false
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.state.State == Running
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
	// Probe is the one on whose computer it is measured; "" is this computer, or the bench's
	// own simulated one.
	Probe string `json:"probe"`
	// Patient: before each run a probe waits until nothing of the conditions makes it doubtful.
	Patient bool `json:"patient"`
	// Dir is the folder that is measured. A simulated computer needs none.
	Dir string `json:"dir"`
	// Folder is the folder that is read, by tests that read one that is there.
	Folder string `json:"folder"`
}

// work is what a measuring has to do, worked out before it begins.
type work struct {
	tests []job.Test
	runs  []int // by test
	steps []round.Step
	left  float64 // s
}

func planWork(j *job.Job, setup string, in MeasureRequest, simulated bool) (*work, error) {
	f := bench.Fields{}
	f.Check(in.Runs >= 0 && in.Runs <= bench.MaxRuns, "runs",
		message.Tell("a-test-is-run", message.Values{"MaxRuns": bench.MaxRuns}))
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	for _, id := range in.Tests {
		if t := j.Test(id); t == nil {
			return nil, bench.Refuse(bench.Missing, "there-is-no-test-in", message.Values{"Id": id})
		} else if !t.Automatic() {
			return nil, bench.Refuse(bench.Invalid, "is-not-a-test", message.Values{"Name": t.Name})
		}
	}
	w, folders := &work{}, 0
	for _, c := range plan.Of(j).Coverage(setup) {
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
	}
	w.steps = round.Steps(w.tests, w.runs)
	for _, step := range w.steps {
		w.left += round.Seconds(step.Test)
	}
	if len(w.tests) == 0 {
		if folders > 0 {
			r := bench.Refuse(bench.Invalid, "what-is-left-reads")
			r.Fields = map[string]string{"folder": message.Tell("name-the-folder-that")}
			return nil, r
		}
		c := bench.Refuse(bench.Conflict, "every-test-that-the")
		c.Do = message.Tell("ask-for-further-runs")
		return nil, c
	}
	folder := in.Folder
	if simulated {
		folder = simulatedFolder
	}
	if err := round.Check(w.tests, folder); err != nil {
		r := bench.Because(bench.Invalid, err)
		if errors.Is(err, round.ErrNoFolder) {
			r.Fields = map[string]string{"folder": message.Tell("name-the-folder-that")}
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
func (x *Rounds) Measure(ctx context.Context, ch *bench.Change, jobID string, in MeasureRequest) (*Measuring, error) {
	snap, err := x.jobs.Expect(ctx, ch, jobID)
	if err != nil {
		return nil, err
	}
	j := snap.Job
	s := j.Sitting(in.Sitting)
	if s == nil {
		return nil, bench.Refuse(bench.Missing, "there-is-no-sitting", message.Values{"Sitting": in.Sitting})
	}
	if in.Probe != "" {
		return x.measureThere(ctx, ch, jobID, j, s, in)
	}
	drive := j.Drive(j.Setup(s.Setup).Drive)
	name := drive.Simulated
	rd, err := planWork(j, s.Setup, in, name != "")
	if err != nil {
		return nil, err
	}

	// Claim the bench before the folder is touched, so that two requests at
	// once cannot both begin.
	run, cancel := context.WithCancel(context.Background())
	r := &running{id: bench.NewID(), cancel: cancel, ended: make(chan struct{}),
		state: Measuring{Job: jobID, Sitting: s.ID, Setup: s.Setup, Dir: in.Dir,
			Simulated: name != "", State: Running, Test: rd.tests[0].ID, Unit: rd.tests[0].Unit, Run: 1, Runs: rd.runs[0], LeftS: rd.left, Points: []LivePoint{}}, stride: 1}
	if name != "" {
		r.state.Dir = "" // it needs none
	}
	for _, n := range rd.runs {
		r.state.Of += n
	}
	if pct, ok := x.battery(); ok && drive.Simulated == "" {
		r.battery = &pct
	}
	if !x.claim(r) {
		cancel()
		c := bench.Refuse(bench.Conflict, "another-measuring-is-running")
		c.Kept, c.Do = message.Tell("the-one-that-runs"), message.Tell("wait-for-it-or")
		return nil, c
	}
	rnd, err := x.open(ctx, ch, run, r, rd, j, in)
	if err != nil {
		x.release(r)
		return nil, err
	}
	x.mu.Lock()
	x.last[jobID] = r
	x.mu.Unlock()
	x.tell(r)
	go x.run(run, r, rd, rnd)
	return r.snapshot(), nil
}

// Here tells whether this computer measures one of its own drives.
func (x *Rounds) Here() bool {
	x.mu.Lock()
	r := x.active
	x.mu.Unlock()
	return r.runs() && !r.snapshot().Simulated
}

// claim makes a round the one that runs, unless another does.
func (x *Rounds) claim(r *running) bool {
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.active != nil || x.last[r.state.Job].runs() {
		return false
	}
	x.active = r
	return true
}

// release ends a round's being the one that runs.
func (x *Rounds) release(r *running) {
	r.cancel()
	x.mu.Lock()
	x.active = nil
	x.mu.Unlock()
	close(r.ended)
}

// open opens the place and notes the round. That a folder may hold a test file is on
// disk before the file is made.
func (x *Rounds) open(ctx context.Context, ch *bench.Change, run context.Context, r *running, rd *work, j *job.Job,
	in MeasureRequest) (*round.Round, error) {
	drive := j.Drive(j.Setup(r.state.Setup).Drive)
	o := round.Options{Tests: rd.tests, Seed: seed(j.Head.Number, r.state.Setup, len(j.Runs)), Folder: in.Folder}
	if drive.Rated != nil {
		o.MaxTempC = drive.Rated.MaxTempC
	}
	var place round.Place
	var err error
	noted := false
	switch name := drive.Simulated; {
	case name != "":
		o.Folder = simulatedFolder
		place, err = sim.Open(name, o.Seed)
	case round.Gentle(rd.tests):
		place, err = machine.OpenReadOnly(in.Dir)
	default:
		// Looking whether the folder can be written makes a file already.
		if err = machine.CheckPath(in.Dir); err == nil {
			if err := x.store.NoteFolder(ctx, in.Dir); err != nil {
				return nil, err
			}
			noted = true
			place, err = machine.OpenFolder(in.Dir)
		}
	}
	var rnd *round.Round
	if err == nil {
		if x.around != nil {
			place = x.around(place)
		}
		rnd, err = round.Open(run, place, o)
	}
	if err == nil {
		if err = x.note(ctx, ch, r); err != nil {
			return nil, errors.Join(err, rnd.Close())
		}
		return rnd, nil
	}
	if noted {
		if err := x.store.ForgetFolder(ctx, in.Dir); err != nil {
			x.log.Error("the folder could not be forgotten", "error", err)
		}
	}
	return nil, measuringRefusal(err, 0)
}

// note stores how a round stands.
func (x *Rounds) note(ctx context.Context, ch *bench.Change, r *running) error {
	m := r.snapshot()
	m.Points = nil // they are looked at while it runs
	body, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		m.Points = []LivePoint{}
		ch.Answer(m)
		return ch.Tx.SaveRound(ctx, r.id, m.Job, m.State == Running, body)
	})
}

// run measures to the end of the round. Nothing that goes wrong in it ends the
// program.
func (x *Rounds) run(ctx context.Context, r *running, rd *work, rnd *round.Round) {
	defer x.release(r)
	if err := x.noteWhere(ctx, r); err != nil {
		x.log.Error("where a round is measured could not be noted", "job", r.state.Job, "error", err)
	}
	err := x.measureRound(ctx, r, rd, rnd)
	r.mu.Lock()
	r.state.Laying, r.state.LeftS = false, 0
	c := rnd.Cleared()
	r.state.Cleared = words.Cleared(c.Left, c.Trimmed, c.Untrimmed)
	switch {
	case err == nil:
		r.state.State = Done
	case errors.Is(err, context.Canceled):
		r.state.State = Cancelled
	default:
		r.state.State = Failed
		r.state.Refusal = measuringRefusal(err, r.state.Kept)
		x.log.Error("measuring failed", "job", r.state.Job, "error", err)
	}
	dir := r.state.Dir
	r.mu.Unlock()
	after := context.WithoutCancel(ctx)
	if err := x.note(after, nil, r); err != nil {
		x.log.Error("the end of a round could not be noted", "error", err)
	}
	if dir != "" {
		if err := x.store.ForgetFolder(after, dir); err != nil {
			x.log.Error("the measured folder could not be forgotten", "error", err)
		}
	}
	x.tell(r)
}

// measureRound runs the tests in turn; every run is on disk before the next
// begins.
func (x *Rounds) measureRound(ctx context.Context, r *running, w *work, rnd *round.Round) (err error) {
	defer func() {
		if p := recover(); p != nil {
			x.log.Error("the measuring itself failed", "panic", p, "stack", string(debug.Stack()))
			err = fmt.Errorf("the measuring itself failed: %v", p)
		}
		err = errors.Join(err, rnd.Close())
	}()
	left := w.left
	for _, step := range w.steps {
		t := step.Test
		r.begin(step)
		run, err := rnd.Do(ctx, step, x.watch(ctx, r, t, left))
		if run != nil { // an error of the drive is a result, too
			if unkept := x.keepRun(ctx, r, run); unkept != nil {
				return errors.Join(err, unkept)
			}
		}
		if err != nil {
			return fmt.Errorf("%s: %w", t.Name, err)
		}
		left -= round.Seconds(t)
	}
	return nil
}

// watch returns what is told while a test runs. It also holds a simulated
// drive back to the bench's pace.
func (x *Rounds) watch(ctx context.Context, r *running, t *job.Test, left float64) func(drivetest.Progress) {
	var last time.Duration
	return func(p drivetest.Progress) {
		if step := p.Elapsed - last; r.state.Simulated && x.pace > 0 && step > 0 {
			select {
			case <-time.After(time.Duration(float64(step) / x.pace)):
			case <-ctx.Done():
			}
		}
		last = p.Elapsed
		if r.progress(t, left, p) {
			x.tell(r)
		}
	}
}

// progress notes how far a run of a test is, with about how long the round still takes from
// its beginning, s, and tells whether it is worth telling.
func (r *running) progress(t *job.Test, left float64, p drivetest.Progress) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	s := &r.state
	if p.Elapsed < r.elapsed { // laying out has ended, the test itself begins
		r.moved = 0
	}
	r.elapsed = p.Elapsed
	if s.Laying && !p.Laying {
		r.anew()
	}
	s.Laying, s.Done, s.HalfWidthPct, s.BlockBytes = p.Laying, p.Done, percent(p.HalfWidth), p.BlockBytes
	s.Rate, s.Unit = p.MBs, "MB/s"
	if t.Unit == "IOPS" && t.Params != nil && !p.Laying {
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
	s.Bytes += p.Bytes - r.moved
	r.moved = p.Bytes
	s.LeftS = left
	if !p.Laying {
		s.LeftS = left - p.Done*round.Seconds(t)
	}
	if time.Since(r.told) < tellEvery {
		return false
	}
	r.told = time.Now()
	return true
}

// begin notes which run of which test begins.
func (r *running) begin(step round.Step) {
	r.mu.Lock()
	defer r.mu.Unlock()
	t := step.Test
	r.state.Test, r.state.Unit, r.state.Run, r.state.Runs = t.ID, t.Unit, step.Run, step.Runs
	r.state.Done, r.state.Rate, r.state.BlockBytes = 0, 0, 0
	r.elapsed, r.moved = 0, 0
	r.anew()
}

// tellEvery bounds how often progress is told; a simulated drive is quicker
// than any eye.
const tellEvery = 200 * time.Millisecond

func (x *Rounds) tell(r *running) {
	s := r.snapshot()
	x.jobs.Tell(bench.Event{Type: bench.MeasuringEvent, Job: s.Job, Data: s})
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
func (x *Rounds) keepRun(ctx context.Context, r *running, run *job.Run) error {
	run.Sitting = r.state.Sitting
	ctx = context.WithoutCancel(ctx)
	kept := r.snapshot().Kept
	_, err := x.jobs.ChangeWith(ctx, nil, r.state.Job, func(ch *bench.Change, j *job.Job) error {
		if err := bench.AddRun(j, *run, x.jobs.Now()); err != nil {
			return err
		}
		x.noteBattery(j, r)
		if run.Kept() {
			r.mu.Lock()
			r.state.Kept++
			r.mu.Unlock()
		}
		return x.note(ctx, ch, r)
	})
	if err != nil {
		if run.Kept() {
			r.mu.Lock()
			r.state.Kept = kept
			r.mu.Unlock()
		}
		return err
	}
	x.tell(r)
	return nil
}

// noteBattery notes how full the battery of this computer was as measuring in a sitting
// began, and how full it is now: one that empties on mains hangs on a weak charger.
func (x *Rounds) noteBattery(j *job.Job, r *running) {
	s := j.Sitting(r.state.Sitting)
	if s == nil || r.battery == nil {
		return
	}
	if now, ok := x.battery(); ok {
		c := &s.Conditions
		if c.BatteryFromPct == nil {
			c.BatteryFromPct = r.battery
		}
		c.BatteryToPct = &now
	}
}

// Measuring returns the last round of a job, or nil.
func (x *Rounds) Measuring(ctx context.Context, jobID string) (*Measuring, error) {
	x.mu.Lock()
	r := x.last[jobID]
	x.mu.Unlock()
	if r != nil {
		return r.snapshot(), nil
	}
	if _, err := x.jobs.Load(ctx, jobID); err != nil {
		return nil, err
	}
	body, err := x.store.LastRound(ctx, jobID)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	m := &Measuring{}
	if err := json.Unmarshal(body, m); err != nil {
		return nil, fmt.Errorf("the last round of job %s: %w", jobID, err)
	}
	m.Points = []LivePoint{}
	return m, nil
}

// patience is how long a cancelled round may take to remove its test file; a drive
// that hangs takes for ever.
const patience = 20 * time.Second

// Cancel ends the round of a job and waits until its test file is gone. Runs that
// were finished stay.
func (x *Rounds) Cancel(ctx context.Context, ch *bench.Change, jobID string) (*Measuring, error) {
	if _, err := x.jobs.Load(ctx, jobID); err != nil {
		return nil, err
	}
	x.mu.Lock()
	r := x.last[jobID]
	x.mu.Unlock()
	if r == nil || r.snapshot().State != Running {
		c := bench.Refuse(bench.Conflict, "nothing-is-being-measured")
		c.Kept = message.Tell("the-runs-that-were")
		return nil, c
	}
	if r.steps != nil {
		if err := x.withdraw(ctx, ch, r); err != nil {
			return nil, err
		}
	} else {
		r.cancel()
	}
	ctx, stop := context.WithTimeout(ctx, patience)
	defer stop()
	select {
	case <-r.ended:
	case <-ctx.Done():
		if r.steps != nil {
			c := bench.Refuse(bench.Conflict, "the-probe-has-not")
			c.Kept, c.Do = message.Tell("the-runs-that-were"), message.Tell("it-stops-as-soon")
			return nil, c
		}
		c := bench.Refuse(bench.Conflict, "the-drive-does-not")
		c.Kept, c.Do = message.Tell("the-runs-that-were"), message.Tell("give-it-a-minute")
		return nil, c
	}
	return r.snapshot(), nil
}

// measuringRefusal says what went wrong with a volume, what was kept and what
// to do.
func measuringRefusal(err error, kept int) *bench.Refusal {
	var already *bench.Refusal
	if errors.As(err, &already) {
		return already
	}
	r := bench.Because(bench.Invalid, err)
	r.Kept = message.Tell("nothing-was-measured")
	switch kept {
	case 0:
	case 1:
		r.Kept = message.Tell("the-run-that-was")
	default:
		r.Kept = message.Tell("the-runs-that-were-finished", message.Values{"Kept": kept})
	}
	switch {
	case errors.Is(err, drivetest.ErrNoDirectIO):
		r.Do = message.Tell("pick-a-folder-that")
	case errors.Is(err, drivetest.ErrNoRoom):
		r.Do = message.Tell("free-some-room-or")
	case errors.Is(err, drivetest.ErrTooHot):
		r.Do = message.Tell("let-the-drive-cool")
	case errors.Is(err, drivetest.ErrClock):
		r.Do = message.Tell("keep-the-computer-from")
	case errors.Is(err, filetest.ErrTooLong):
		r.Do = message.Tell("make-the-set-smaller")
	case errors.Is(err, syscall.EIO), errors.Is(err, syscall.ENODEV), errors.Is(err, syscall.ENXIO):
		r.Do = message.Tell("the-drive-itself-reports")
	default:
		r.Do = message.Tell("look-at-the-folder")
	}
	if errors.Is(err, drivetest.ErrNoRoom) || errors.Is(err, drivetest.ErrNoDirectIO) || kept == 0 {
		r.Fields = map[string]string{"dir": r.Message}
	}
	return r
}
