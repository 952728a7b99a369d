package measuring

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"strings"

	"nowthen/bench"
	"nowthen/bench/probes"
	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/order"
	"nowthen/core/plan"
	"nowthen/core/round"
	"nowthen/core/words"
	"nowthen/store"
)

// there runs a round through a probe, on the probe's computer.
type there struct{ rounds *Rounds }

func (t there) stop(ctx context.Context, ch *bench.Change, r *running) error {
	m := r.snapshot()
	answers, err := t.rounds.probes.Withdraw(ctx, ch, m.Probe, r.id)
	if err != nil {
		return fmt.Errorf("taking the order back: %w", err)
	}
	if answers {
		return nil
	}
	// It is away. Its finished runs arrive when it is back.
	return t.rounds.endThere(ctx, ch, r, order.Ended{Order: r.id, State: order.Cancelled})
}

func (there) silent() *bench.Refusal {
	c := bench.Refuse(bench.Conflict, "The probe has not confirmed yet that it stopped.")
	c.Kept, c.Do = "The finished runs are kept.", "It stops as soon as it gets the message."
	return c
}

// measureThere gives a probe a round. Rounds on different computers don't disturb each other.
func (x *Rounds) measureThere(ctx context.Context, ch *bench.Change, jobID string, j *job.Job, s *job.Sitting,
	in MeasureRequest) (*Measuring, error) {
	name, _, err := x.probes.At(ctx, jobID, in.Probe)
	if err != nil {
		return nil, err
	}
	dir, ok, err := x.probes.Holding(ctx, jobID, in.Probe, s.Setup, in.Dir)
	if err != nil {
		return nil, err
	}
	if !ok {
		return nil, otherDrive()
	}
	in.Dir = dir
	w, err := planWork(j, s.Setup, in, name != "")
	if err != nil {
		return nil, err
	}
	o := order.Order{ID: bench.NewID(), Kind: order.Measure, Sitting: s.ID, Tests: w.tests, Wanted: w.runs, Dir: in.Dir,
		Folder: in.Folder, Patient: in.Patient,
		Seed: seed(j.Head.Number, s.Setup, len(j.Runs))}
	if name != "" {
		o.Folder = simulatedFolder
	}
	if rated := j.Drive(j.Setup(s.Setup).Drive).Rated; rated != nil {
		o.MaxTempC = rated.MaxTempC
	}
	return x.give(ctx, ch, o,
		Measuring{Job: jobID, Sitting: s.ID, Setup: s.Setup, Dir: in.Dir, Simulated: name != "", State: Running,
			Probe: in.Probe, LeftS: w.left})
}

// give gives an order to its probe, and stores the round.
func (x *Rounds) give(ctx context.Context, ch *bench.Change, o order.Order, m Measuring) (*Measuring, error) {
	r := x.roundOf(&o, m)
	x.mu.Lock()
	before := x.last[m.Job]
	if before.runs() {
		x.mu.Unlock()
		return nil, another(bench.Refuse(bench.Conflict, "A round is already running in this job."))
	}
	x.last[m.Job] = r
	x.mu.Unlock()
	begun := r.snapshot()
	err := x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		if err := x.probes.Give(ctx, ch, m.Job, m.Probe, o); err != nil {
			return err
		}
		return x.note(ctx, ch, r)
	})
	if err != nil {
		x.mu.Lock()
		if before != nil {
			x.last[m.Job] = before
		} else {
			delete(x.last, m.Job)
		}
		x.mu.Unlock()
		return nil, err
	}
	x.probes.Wake(m.Probe)
	x.tell(r)
	return begun, nil
}

// LaunchRequest asks for launches of a program on a probe's computer.
type LaunchRequest struct {
	Test    string `json:"test"`
	Sitting string `json:"sitting"`
	Probe   string `json:"probe"`
	// Runs is the number of runs; 0 means as many as are missing.
	Runs    int      `json:"runs"`
	Program string   `json:"program"`
	Args    []string `json:"args"`
	Until   string   `json:"until"`
	Cold    bool     `json:"cold"`
}

// Bounds of what is launched.
const (
	maxProgram = 4096
	maxArgs    = 100
	// launchSeconds is roughly how long one launch takes, including ending the program.
	launchSeconds = 30.0
)

// Launch lets a probe time launches of a program for a test. Program and sign are kept with the test, for
// measuring the other side.
func (x *Rounds) Launch(ctx context.Context, ch *bench.Change, jobID string, in LaunchRequest) (*Measuring, error) {
	in.Program, in.Until = strings.TrimSpace(in.Program), strings.TrimSpace(in.Until)
	f := bench.Fields{}
	f.Check(in.Program != "" && len(in.Program) <= maxProgram, "program",
		"Enter the program: its path, or its name where the system finds it.")
	f.Check(launchable.MatchString(in.Until), "until",
		"Choose when it counts as ready: exit, line:TEXT, file:PATH, port:NUMBER, window, window:TITLE or quiet.")
	f.Check(len(in.Args) <= maxArgs, "args", fmt.Sprintf("Up to %d arguments.", maxArgs))
	f.Check(in.Runs >= 0 && in.Runs <= bench.MaxRuns, "runs",
		fmt.Sprintf("Enter 1 to %d launches.", bench.MaxRuns))
	for _, a := range in.Args {
		f.Check(len(a) <= maxProgram, "args", "An argument is too long for a command line.")
	}
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	snap, err := x.jobs.Expect(ctx, ch, jobID)
	if err != nil {
		return nil, err
	}
	j := snap.Job
	s, t, err := sought(j, in.Sitting, in.Test)
	if err != nil {
		return nil, err
	}
	if t.Kind != job.Timed || t.Unit != "s" || catalogue.IsStart(t) || len(t.Phases) > 0 {
		return nil, bench.Refuse(bench.Invalid, "%s isn’t one program launch. Time it by hand.", t.Name)
	}
	name, n, err := x.there(ctx, jobID, j, s, t, in.Probe, in.Runs)
	if err != nil {
		return nil, err
	}
	wanted := job.Launch{Program: in.Program, Args: in.Args, Until: in.Until, Cold: in.Cold}
	if _, err := x.jobs.Change(ctx, ch.Beside(), jobID, func(j *job.Job) error {
		j.Test(in.Test).Launch = &wanted
		return nil
	}); err != nil {
		return nil, err
	}
	test := *t
	test.Launch = &wanted
	o := order.Order{ID: bench.NewID(), Kind: order.Launch, Sitting: s.ID, Tests: []job.Test{test}, Wanted: []int{n},
		Seed: seed(j.Head.Number, t.ID, s.Setup, len(j.RunsOf(t.ID, s.Setup)))}
	return x.give(ctx, ch, o,
		Measuring{Job: jobID, Sitting: s.ID, Setup: s.Setup, Simulated: name != "", State: Running, Probe: in.Probe,
			LeftS: float64(n) * launchSeconds})
}

// RestartRequest asks for restarts of a probe's computer.
type RestartRequest struct {
	Test    string `json:"test"`
	Sitting string `json:"sitting"`
	Probe   string `json:"probe"`
	// Runs is how often; 0 means as often as runs are missing.
	Runs int `json:"runs"`
	// ByHand: the technician restarts it each time.
	ByHand bool `json:"by_hand"`
}

// restartSeconds is roughly how long one restart takes.
const restartSeconds = 90.0

// Restart lets a probe time restarts of its computer, from its last sign before to its first sign after.
func (x *Rounds) Restart(ctx context.Context, ch *bench.Change, jobID string, in RestartRequest) (*Measuring, error) {
	f := bench.Fields{}
	f.Check(in.Runs >= 0 && in.Runs <= bench.MaxRuns, "runs",
		fmt.Sprintf("Enter up to %d restarts.", bench.MaxRuns))
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	snap, err := x.jobs.Expect(ctx, ch, jobID)
	if err != nil {
		return nil, err
	}
	j := snap.Job
	s, t, err := sought(j, in.Sitting, in.Test)
	if err != nil {
		return nil, err
	}
	if t.What != catalogue.RestartWatch {
		return nil, bench.Refuse(bench.Invalid,
			"The probe can’t time %s. Add “Restart, timed by the probe” to the plan.", t.Name)
	}
	name, n, err := x.there(ctx, jobID, j, s, t, in.Probe, in.Runs)
	if err != nil {
		return nil, err
	}
	o := order.Order{ID: bench.NewID(), Kind: order.Restart, Sitting: s.ID, Tests: []job.Test{*t}, Wanted: []int{n},
		ByHand: in.ByHand, Seed: seed(j.Head.Number, t.ID, s.Setup, len(j.RunsOf(t.ID, s.Setup)))}
	return x.give(ctx, ch, o,
		Measuring{Job: jobID, Sitting: s.ID, Setup: s.Setup, Simulated: name != "", State: Running, Probe: in.Probe,
			LeftS: float64(n) * restartSeconds})
}

// sought returns the sitting and the test that a request names.
func sought(j *job.Job, sitting, test string) (*job.Sitting, *job.Test, error) {
	s, t := j.Sitting(sitting), j.Test(test)
	switch {
	case s == nil:
		return nil, nil, bench.NoSuch("session", sitting)
	case t == nil:
		return nil, nil, bench.NoSuch("test", test)
	}
	return s, t, nil
}

// there reports which simulated computer a probe's is ("" for a real one) and how often a test is to
// be run on it: so often as
// was said, or as runs are missing. It refuses a probe whose computer has another side's drive fitted.
func (x *Rounds) there(ctx context.Context, jobID string, j *job.Job, s *job.Sitting, t *job.Test, probe string,
	runs int) (simulated string, n int, err error) {
	name, setup, err := x.probes.At(ctx, jobID, probe)
	if err != nil {
		return "", 0, err
	}
	if setup != s.Setup {
		return "", 0, otherDrive()
	}
	for _, c := range plan.Of(j).Coverage(s.Setup) {
		if runs == 0 && c.Test == t.ID {
			runs = c.Missing()
		}
	}
	return name, max(runs, 1), nil
}

// launchable are signs as they are written; the probe reads them whole.
var launchable = regexp.MustCompile(`^(exit|quiet|window|window:[^\n]+|line:[^\n]+|file:[^\n]+|port:[0-9]{1,5})$`)

// otherDrive is the refusal to measure a side whose drive isn't in the computer.
func otherDrive() error {
	c := bench.Refuse(bench.Conflict, "This isn’t the drive in the computer now.")
	c.Kept, c.Do = "Nothing was measured.",
		"Measure the setup whose drive is in the computer, or correct this setup’s drive."
	return c
}

// roundOf returns the round of an order on a probe's computer.
func (x *Rounds) roundOf(o *order.Order, m Measuring) *running {
	steps := round.Steps(o.Tests, o.Wanted)
	return begun(o.ID, there{x}, m, steps, min(o.Skip, len(steps)-1))
}

// resume continues with a round on a probe's computer that ran when this program ended: the
// probe continues all the same. It reports whether the probe still has the order.
func (x *Rounds) resume(ctx context.Context, id string, m Measuring) (bool, error) {
	if m.Probe == "" {
		return false, nil
	}
	o, err := x.probes.Ordered(ctx, m.Probe)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	if o == nil || o.ID != id {
		return false, nil
	}
	r := x.roundOf(o, m)
	x.mu.Lock()
	x.last[m.Job] = r
	x.mu.Unlock()
	return true, nil
}

// ordered returns the round of an order, or nil.
func (x *Rounds) ordered(jobID, orderID string) *running {
	x.mu.Lock()
	defer x.mu.Unlock()
	if r := x.last[jobID]; r != nil && r.id == orderID {
		return r
	}
	return nil
}

// Work waits for something that a probe is to do; see [probes.Probes.Work].
func (x *Rounds) Work(ctx context.Context, probe, doing string) (*order.Order, error) {
	for {
		o, err := x.probes.Work(ctx, probe, doing)
		if err != nil || o == nil || o.Kind != order.Stop || doing != "" {
			return o, err
		}
		// It was withdrawn before the probe began it, or while the probe was away.
		if err := x.Ended(ctx, probe, order.Ended{Order: o.ID, State: order.Cancelled}); err != nil {
			return nil, err
		}
	}
}

// Progressed takes a probe's progress with its order.
func (x *Rounds) Progressed(ctx context.Context, probe, jobID string, p order.Progress) error {
	if checks, err := x.probes.Progressed(ctx, probe, p); checks || err != nil {
		return err
	}
	x.progressed(jobID, p)
	return nil
}

// Signed takes a computer's last sign before a restart, or its first after it, and returns the bench's clock.
func (x *Rounds) Signed(jobID string, s order.Sign) *order.Clock {
	c := x.probes.Time()
	p := order.Progress{Order: s.Order, Step: s.Step}
	if s.Leaving {
		p.Waiting = words.Restarting
	}
	x.progressed(jobID, p)
	return c
}

func (x *Rounds) progressed(jobID string, p order.Progress) {
	r := x.ordered(jobID, p.Order)
	if !r.runs() || p.Step < 0 || p.Step >= len(r.steps) {
		return
	}
	if r.under() != p.Step {
		r.begin(p.Step)
	}
	waits := r.waits(p.Waiting)
	if p.Waiting == "" && r.progress(p.Step, p.Engine()) || waits {
		x.tell(r)
	}
}

// errThere means that the job already has a run.
var errThere = errors.New("the run is there already")

// Finished stores a probe's finished run, whether or not its round is still running. A repeat is stored once. A
// run without an order waits until a technician accepts it.
func (x *Rounds) Finished(ctx context.Context, probe, jobID string, res order.Result) (err error) {
	if res.Run.At, err = x.probes.Ours(ctx, probe, res.Run.At); err != nil {
		return err
	}
	err = x.finished(ctx, jobID, res, func(ch *bench.Change) error { return x.probes.Came(ctx, ch, probe, &res) })
	var why probes.UnaskedError
	if errors.As(err, &why) {
		return x.apart(ctx, jobID, probe, string(why), res)
	}
	return err
}

// finished stores a run, and runs along in the same change.
func (x *Rounds) finished(ctx context.Context, jobID string, res order.Result,
	along func(ch *bench.Change) error) error {
	run, r := res.Run, x.ordered(jobID, res.Order)
	counted := false
	_, err := x.jobs.ChangeWith(ctx, nil, jobID, func(ch *bench.Change, j *job.Job) error {
		if j.Run(run.ID) != nil {
			return errThere
		}
		t := j.Test(run.Test)
		if t == nil {
			return bench.NoSuch("test", run.Test)
		}
		if err := checkRun(t, &run); err != nil {
			return err
		}
		if err := along(ch); err != nil {
			return err
		}
		if err := bench.AddRun(j, run, x.jobs.Now()); err != nil {
			return err
		}
		if r == nil {
			return nil
		}
		if run.Kept() {
			counted = true
			r.count(1)
		}
		return x.note(ctx, ch, r)
	})
	switch {
	case errors.Is(err, errThere):
		return x.jobs.Write(ctx, nil, along)
	case err != nil && counted:
		r.count(-1)
	}
	if err == nil && r != nil {
		x.tell(r)
	}
	return err
}

// apart stores a run without an order until a technician accepts it.
func (x *Rounds) apart(ctx context.Context, jobID, probe, why string, res order.Result) error {
	run := res.Run
	_, err := x.jobs.Change(ctx, nil, jobID, func(j *job.Job) error {
		t := j.Test(run.Test)
		if t == nil {
			return bench.NoSuch("test", run.Test)
		}
		if err := checkRun(t, &run); err != nil {
			return err
		}
		if run.At.IsZero() {
			run.At = x.jobs.Now()
		}
		return bench.Wait(j, job.WaitingRun{From: job.FromProbe, Of: probe, At: x.jobs.Now(), Why: why, Run: run})
	})
	return err
}

// maxID is the maximum length of a run's id.
const maxID = 64

// checkRun refuses what no probe could measure. Runs from another computer are checked as strictly as a file.
func checkRun(t *job.Test, run *job.Run) error {
	if run.ID == "" || len(run.ID) > maxID {
		return bench.Refuse(bench.Invalid, "A run’s id has at most %d characters.", maxID)
	}
	if run.Method != job.Automatic && run.Method != job.RestartWatch {
		return bench.Refuse(bench.Invalid, "A probe can’t use the method %q.", run.Method)
	}
	data, err := jobfile.WriteSitting(&jobfile.SittingFile{Probe: jobfile.Probe{Engine: run.Engine},
		Tests: []job.Test{*t}, Runs: []job.Run{*run}})
	if err == nil {
		_, err = jobfile.ReadSitting("the run", data)
	}
	var refused *jobfile.Refusal
	if errors.As(err, &refused) {
		return bench.FileRefusal(refused)
	}
	if err != nil {
		return bench.Refuse(bench.Invalid, "The run can’t be read: %v.", err)
	}
	run.By, run.Video, run.Given, run.Bound = "", nil, "", ""
	return nil
}

// Ended takes the outcome of a probe's order.
func (x *Rounds) Ended(ctx context.Context, probe string, e order.Ended) error {
	jobID, err := x.probes.Ended(ctx, probe, e)
	if err != nil || jobID == "" {
		return err
	}
	if r := x.ordered(jobID, e.Order); r.runs() {
		return x.endThere(ctx, nil, r, e)
	}
	return nil
}

func (x *Rounds) endThere(ctx context.Context, ch *bench.Change, r *running, e order.Ended) error {
	state, why := Failed, errors.New(e.Error)
	switch e.State {
	case order.Done:
		state, why = Done, nil
	case order.Cancelled:
		state, why = Cancelled, nil
	}
	if !r.end(state, e.Cleared, why) {
		return nil
	}
	close(r.ended)
	err := x.note(context.WithoutCancel(ctx), ch, r)
	x.tell(r)
	return err
}
