// Package measuring runs rounds of unattended tests on this computer and on simulated ones, one
// at a time, because two would disturb each other.
//
// It must not import HTTP, screens or other use cases.
package measuring

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"sync"
	"syscall"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/bench/probes"
	"nowthen/core/drivetest"
	"nowthen/core/filetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/round"
	"nowthen/machine"
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

// Store is the part of the store that measuring uses.
type Store interface {
	NoteFolder(ctx context.Context, dir string) error
	Folders(ctx context.Context) ([]string, error)
	ForgetFolder(ctx context.Context, dir string) error
	SaveRound(ctx context.Context, id, jobID string, running bool, body []byte) error
	LastRound(ctx context.Context, jobID string) ([]byte, error)
	RunningRounds(ctx context.Context) ([]store.Round, error)
}

// Rounds runs rounds of tests.
type Rounds struct {
	jobs  *bench.Jobs
	store Store
	log   *slog.Logger
	// pace is how many simulated seconds pass in a real one, slow enough for a person to watch; 0 is as fast as
	// possible.
	pace float64
	// around wraps the place of a round, in tests.
	around func(round.Place) round.Place
	// battery reports the charge of this computer's battery.
	battery func() (pct float64, ok bool)
	// hardware reports this computer's facts; nil reports nothing.
	hardware func(context.Context) *hardware.Facts
	probes   *probes.Probes

	mu     sync.Mutex
	last   map[string]*running // of each job, since the program started
	active *running            // the one that runs, or nil
}

// Options configure measuring.
type Options struct {
	Log  *slog.Logger
	Pace float64
	// Hardware reports the facts of the bench's own computer, which are stored with a round; nil stores nothing.
	Hardware func(context.Context) *hardware.Facts
}

// New returns the rounds of a bench.
func New(jobs *bench.Jobs, s Store, p *probes.Probes, o Options) *Rounds {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	return &Rounds{jobs: jobs, store: s, probes: p, log: o.Log, pace: o.Pace, battery: machine.Battery,
		hardware: o.Hardware,
		last:     map[string]*running{}}
}

// Recover cleans up after a program that was interrupted while measuring: it removes test files and marks
// running rounds as interrupted. It requires exclusive use of the data folder.
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
		m.State, m.Laying, m.LeftS, m.MostS = Interrupted, false, 0, 0
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
			// The folder may be on a drive that was removed; try again next time.
			x.log.Warn("leftover test files could not be searched for", "folder", dir, "error", err)
			continue
		}
		if n > 0 {
			x.log.Info("removed leftover test files", "folder", dir, "files", n)
		}
		if err := x.store.ForgetFolder(ctx, dir); err != nil {
			return err
		}
	}
	return nil
}

// Close cancels the running round and waits until its test file is removed, or until the context ends: a
// hanging drive never answers.
func (x *Rounds) Close(ctx context.Context) error {
	x.mu.Lock()
	r := x.active
	x.mu.Unlock()
	if r == nil {
		return nil
	}
	if err := r.by.stop(ctx, nil, r); err != nil {
		return err
	}
	select {
	case <-r.ended:
		return nil
	case <-ctx.Done():
		return errors.New("the drive that was being measured does not answer; its test file is removed at the next start")
	}
}

// Wait waits for the end of a job's round and returns its result.
func (x *Rounds) Wait(ctx context.Context, jobID string) (*Measuring, error) {
	x.mu.Lock()
	r := x.last[jobID]
	x.mu.Unlock()
	if r == nil {
		return nil, bench.Refuse(bench.Missing, "No round was started in this job.")
	}
	select {
	case <-r.ended:
		return r.snapshot(), nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// Active are the running rounds: the one on this computer first, then those on probes.
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

// MeasureRequest asks for a round of drive tests.
type MeasureRequest struct {
	Sitting string `json:"sitting"`
	// Tests are ids of unattended tests; none means all with missing runs.
	Tests []string `json:"tests"`
	// Runs is the number of runs of each; 0 means as many as are missing.
	Runs int `json:"runs"`
	// Probe is the probe to measure on; "" is this computer, or the bench's own simulated one.
	Probe string `json:"probe"`
	// Patient: before each run the probe waits until the conditions give no reason for doubt.
	Patient bool `json:"patient"`
	// Dir is the folder that is measured. A simulated computer needs none.
	Dir string `json:"dir"`
	// Folder is read by tests that read an existing folder.
	Folder string `json:"folder"`
}

// work is what a round has to do, computed before it begins.
type work struct {
	tests []job.Test
	runs  []int // by test
	steps []round.Step
	left  float64 // s
}

func planWork(j *job.Job, setup string, in MeasureRequest, simulated bool) (*work, error) {
	f := bench.Fields{}
	f.Check(in.Runs >= 0 && in.Runs <= bench.MaxRuns, "runs",
		fmt.Sprintf("Enter 1 to %d runs.", bench.MaxRuns))
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	for _, id := range in.Tests {
		if t := j.Test(id); t == nil {
			return nil, bench.NoSuch("test", id)
		} else if !t.Automatic() {
			return nil, bench.Refuse(bench.Invalid, "%s does not run unattended.", t.Name)
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
			r := bench.Refuse(bench.Invalid, "The remaining tests read a folder. Choose one.")
			r.Fields = map[string]string{"folder": "Choose the folder to read: the same one on both sides."}
			return nil, r
		}
		c := bench.Refuse(bench.Conflict, "Every unattended test has its runs on this setup already.")
		c.Do = "Ask for more runs if you want a more precise figure."
		return nil, c
	}
	folder := in.Folder
	if simulated {
		folder = simulatedFolder
	}
	if err := round.Check(w.tests, folder); err != nil {
		r := bench.Because(bench.Invalid, err)
		if errors.Is(err, round.ErrNoFolder) {
			r.Fields = map[string]string{"folder": "Choose the folder to read: the same one on both sides."}
		}
		return nil, r
	}
	return w, nil
}

// simulatedFolder is the name of a simulated computer's only folder.
const simulatedFolder = "simulated"

// Measure starts a round of unattended tests in the background: in the given folder, or on the drive of a
// simulated computer. Only one round runs at a time, because two would disturb each other.
func (x *Rounds) Measure(ctx context.Context, ch *bench.Change, jobID string, in MeasureRequest) (*Measuring, error) {
	snap, err := x.jobs.Expect(ctx, ch, jobID)
	if err != nil {
		return nil, err
	}
	j := snap.Job
	s := j.Sitting(in.Sitting)
	if s == nil {
		return nil, bench.NoSuch("session", in.Sitting)
	}
	if in.Probe != "" {
		return x.measureThere(ctx, ch, jobID, j, s, in)
	}
	return x.measureHere(ctx, ch, j, s, jobID, in)
}

// Here reports whether this computer is measuring one of its own drives.
func (x *Rounds) Here() bool {
	x.mu.Lock()
	r := x.active
	x.mu.Unlock()
	return r.runs() && !r.snapshot().Simulated
}

// note stores the state of a round.
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

// another refuses a round while another runs.
func another(c *bench.Refusal) *bench.Refusal {
	c.Kept, c.Do = "The running one continues.", "Wait for it, or cancel it first."
	return c
}

// patience is how long a cancelled round may take to remove its test file; a hanging drive takes forever.
const patience = 20 * time.Second

// Cancel ends a job's round and waits until its test file is removed. Finished runs stay.
func (x *Rounds) Cancel(ctx context.Context, ch *bench.Change, jobID string) (*Measuring, error) {
	if _, err := x.jobs.Load(ctx, jobID); err != nil {
		return nil, err
	}
	x.mu.Lock()
	r := x.last[jobID]
	x.mu.Unlock()
	if !r.runs() {
		c := bench.Refuse(bench.Conflict, "No round is running in this job any more.")
		c.Kept = "The finished runs are kept."
		return nil, c
	}
	if err := r.by.stop(ctx, ch, r); err != nil {
		return nil, err
	}
	ctx, stop := context.WithTimeout(ctx, patience)
	defer stop()
	select {
	case <-r.ended:
	case <-ctx.Done():
		return nil, r.by.silent()
	}
	return r.snapshot(), nil
}

// measuringRefusal words a volume's error: what went wrong, what was kept and what to do.
func measuringRefusal(err error, kept int) *bench.Refusal {
	var already *bench.Refusal
	if errors.As(err, &already) {
		return already
	}
	r := bench.Because(bench.Invalid, err)
	r.Kept = "Nothing was measured."
	switch kept {
	case 0:
	case 1:
		r.Kept = "The finished run is kept."
	default:
		r.Kept = fmt.Sprintf("The %d finished runs are kept.", kept)
	}
	switch {
	case errors.Is(err, drivetest.ErrNoDirectIO):
		r.Do = "Choose a folder on the drive itself. Through the page cache you would measure the memory."
	case errors.Is(err, drivetest.ErrNoRoom):
		r.Do = "Free some room, or make the test file smaller in the job's plan."
	case errors.Is(err, drivetest.ErrTooHot):
		r.Do = "Let the drive cool and measure again. The run that stopped early is kept with its temperature."
	case errors.Is(err, drivetest.ErrClock):
		r.Do = "Keep the computer from sleeping, then measure again."
	case errors.Is(err, filetest.ErrTooLong):
		r.Do = "Make the set smaller, or mark this test as one you can’t measure on this drive."
	case errors.Is(err, syscall.EIO), errors.Is(err, syscall.ENODEV), errors.Is(err, syscall.ENXIO):
		r.Do = "The drive itself reports an error. Save the customer's data before anything else."
	default:
		r.Do = "Check the folder and its drive, then try again."
	}
	if errors.Is(err, drivetest.ErrNoRoom) || errors.Is(err, drivetest.ErrNoDirectIO) || kept == 0 {
		r.Fields = map[string]string{"dir": r.Message}
	}
	return r
}
