package measuring

import (
	"context"
	"errors"
	"time"

	"nowthen/bench"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/round"
	"nowthen/core/words"
	"nowthen/machine"
	"nowthen/sim"
)

// here runs a round on this computer: in one of its folders, or on a simulated drive.
type here struct {
	cancel context.CancelFunc
	// battery is its charge when the round began, %; nil if there is none, or on a simulated drive.
	battery *float64
}

func (h *here) stop(context.Context, *bench.Change, *running) error {
	h.cancel()
	return nil
}

func (h *here) silent() *bench.Refusal {
	c := bench.Refuse(bench.Conflict, "The drive does not answer.")
	c.Kept, c.Do = "The finished runs are kept.",
		"Wait a minute. If nothing changes, the drive hangs: switch the computer off."
	return c
}

// measureHere starts a round on this computer. Only one runs at a time.
func (x *Rounds) measureHere(ctx context.Context, ch *bench.Change, j *job.Job, s *job.Sitting, jobID string,
	in MeasureRequest) (*Measuring, error) {
	drive := j.Drive(j.Setup(s.Setup).Drive)
	simulated := drive.Simulated != ""
	w, err := planWork(j, s.Setup, in, simulated)
	if err != nil {
		return nil, err
	}
	m := Measuring{Job: jobID, Sitting: s.ID, Setup: s.Setup, Dir: in.Dir, Simulated: simulated, State: Running,
		LeftS: w.left}
	if simulated {
		m.Dir = "" // it needs none
	}
	// The bench is claimed before the folder is touched: of two simultaneous requests only one can start.
	run, cancel := context.WithCancel(context.Background())
	h := &here{cancel: cancel}
	if pct, ok := x.battery(); ok && !simulated {
		h.battery = &pct
	}
	r := begun(bench.NewID(), h, m, w.steps, 0)
	if !x.claim(r) {
		cancel()
		return nil, another(bench.Refuse(bench.Conflict,
			"Another round is running. Two at once would disturb each other."))
	}
	rnd, err := x.open(ctx, ch, run, r, w, j, in)
	if err != nil {
		x.release(r, h)
		return nil, err
	}
	x.mu.Lock()
	x.last[jobID] = r
	x.mu.Unlock()
	x.tell(r)
	go x.run(run, r, h, rnd)
	return r.snapshot(), nil
}

// claim makes a round the running one, unless another is running.
func (x *Rounds) claim(r *running) bool {
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.active != nil || x.last[r.state.Job].runs() {
		return false
	}
	x.active = r
	return true
}

// release undoes claim.
func (x *Rounds) release(r *running, h *here) {
	h.cancel()
	x.mu.Lock()
	x.active = nil
	x.mu.Unlock()
	close(r.ended)
}

// open opens the place and stores the round. The folder is recorded on disk before a test file is made in it.
func (x *Rounds) open(ctx context.Context, ch *bench.Change, run context.Context, r *running, w *work, j *job.Job,
	in MeasureRequest) (*round.Round, error) {
	drive := j.Drive(j.Setup(r.state.Setup).Drive)
	o := round.Options{Tests: w.tests, Seed: seed(j.Head.Number, r.state.Setup, len(j.Runs)), Folder: in.Folder}
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
	case round.Gentle(w.tests):
		place, err = machine.OpenReadOnly(in.Dir)
	default:
		// Checking whether the folder is writable already creates a file.
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
			x.log.Error("the note of a folder could not be removed", "error", err)
		}
	}
	return nil, measuringRefusal(err, 0)
}

// run measures to the end of the round. Each run is on disk before the next begins. No failure in it ends the
// program.
func (x *Rounds) run(ctx context.Context, r *running, h *here, rnd *round.Round) {
	defer x.release(r, h)
	if err := x.noteWhere(ctx, r); err != nil {
		x.log.Error("the folder of a round could not be noted", "job", r.state.Job, "error", err)
	}
	var last time.Duration
	err := rnd.All(ctx, r.steps, round.Along{
		Before: func(at int, _ round.Step) error {
			r.begin(at)
			last = 0
			return nil
		},
		Tell: func(at int, _ round.Step, p drivetest.Progress) {
			x.hold(ctx, r, p.Elapsed-last)
			last = p.Elapsed
			if r.progress(at, p) {
				x.tell(r)
			}
		},
		Keep: func(_ int, _ round.Step, run *job.Run) error { return x.keepRun(ctx, r, h, run) },
	})
	c := rnd.Cleared()
	switch {
	case err == nil:
		r.end(Done, words.Cleared(c.Left, c.Trimmed, c.Untrimmed), nil)
	case errors.Is(err, context.Canceled):
		r.end(Cancelled, words.Cleared(c.Left, c.Trimmed, c.Untrimmed), nil)
	default:
		r.end(Failed, words.Cleared(c.Left, c.Trimmed, c.Untrimmed), err)
		var panicked *round.PanicError
		if errors.As(err, &panicked) {
			x.log.Error("the measuring program failed", "job", r.state.Job, "panic", panicked.Value, "stack",
				string(panicked.Stack))
		} else {
			x.log.Error("measuring failed", "job", r.state.Job, "error", err)
		}
	}
	after := context.WithoutCancel(ctx)
	if err := x.note(after, nil, r); err != nil {
		x.log.Error("the end of a round could not be noted", "error", err)
	}
	if dir := r.snapshot().Dir; dir != "" {
		if err := x.store.ForgetFolder(after, dir); err != nil {
			x.log.Error("the note of a measured folder could not be removed", "error", err)
		}
	}
	x.tell(r)
}

// hold slows a simulated drive down to the bench's pace.
func (x *Rounds) hold(ctx context.Context, r *running, step time.Duration) {
	if !r.state.Simulated || x.pace <= 0 || step <= 0 {
		return
	}
	select {
	case <-time.After(time.Duration(float64(step) / x.pace)):
	case <-ctx.Done():
	}
}

// keepRun stores a run, even if the round is being cancelled.
func (x *Rounds) keepRun(ctx context.Context, r *running, h *here, run *job.Run) error {
	run.Sitting = r.state.Sitting
	ctx = context.WithoutCancel(ctx)
	counted := 0
	_, err := x.jobs.ChangeWith(ctx, nil, r.state.Job, func(ch *bench.Change, j *job.Job) error {
		if err := bench.AddRun(j, *run, x.jobs.Now()); err != nil {
			return err
		}
		x.noteBattery(j, r, h)
		if run.Kept() {
			counted = 1
			r.count(counted)
		}
		return x.note(ctx, ch, r)
	})
	if err != nil {
		r.count(-counted)
		return err
	}
	x.tell(r)
	return nil
}

// noteBattery stores the battery's charge when measuring began in a sitting, and its charge now: if it falls on
// mains, the charger is too weak.
func (x *Rounds) noteBattery(j *job.Job, r *running, h *here) {
	s := j.Sitting(r.state.Sitting)
	if s == nil || h.battery == nil {
		return
	}
	if now, ok := x.battery(); ok {
		c := &s.Conditions
		if c.BatteryFromPct == nil {
			c.BatteryFromPct = h.battery
		}
		c.BatteryToPct = &now
	}
}
