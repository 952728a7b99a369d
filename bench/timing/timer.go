// Package timing times by hand: a job's timer on all devices, the finish line that a page of
// the customer's computer crosses, and the technicians' own reaction times.
//
// It must not import HTTP, screens or other use cases.
package timing

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/stopwatch"
	"nowthen/store"
)

// Store is the part of the store that timing uses.
type Store interface {
	Timer(ctx context.Context, jobID string) ([]byte, error)
	Timers(ctx context.Context) (map[string][]byte, error)
	Technicians(ctx context.Context) ([][]byte, error)
}

// Timers handles timing by hand.
type Timers struct {
	jobs  *bench.Jobs
	store Store
}

// New returns the timers of a bench.
func New(jobs *bench.Jobs, s Store) *Timers { return &Timers{jobs: jobs, store: s} }

// timer is the stored form of a job's stopwatch. Marks are seconds since 1970 on the bench's clock, which lets
// it continue after a restart of the program.
type timer struct {
	// ID identifies the timer: a press meant for another one doesn't affect it.
	ID      string          `json:"id,omitzero"`
	Test    string          `json:"test"`
	Sitting string          `json:"sitting"`
	ArmedMS float64         `json:"armed_ms"`
	Watch   stopwatch.Watch `json:"watch"`
	// By is the technician, whose reaction counts.
	By string `json:"by,omitzero"`
	// Word is the word of this timer's finish line.
	Word string `json:"word,omitzero"`
	// Opened are the times at which pages of the finish line were opened, ms; Trip is the longest time from
	// sending a page to its picture being requested, ms.
	Opened map[int]float64 `json:"opened,omitempty"`
	Trip   float64         `json:"trip_ms,omitzero"`
	// Series is how many runs follow this one automatically.
	Series int `json:"series,omitzero"`
}

// Timer is the current state of a job's stopwatch.
type Timer struct {
	ID      string            `json:"id"`
	Job     string            `json:"job"`
	Test    string            `json:"test"`
	Name    string            `json:"name"`
	Sitting string            `json:"sitting"`
	Setup   string            `json:"setup"`
	State   stopwatch.State   `json:"state"`
	Phases  []stopwatch.Phase `json:"phases"`
	// MarksMS are the presses, in milliseconds on the bench's clock.
	MarksMS []float64 `json:"marks_ms"`
	NowMS   float64   `json:"now_ms"`
	Holds   []HoldMS  `json:"holds"`
	// Taken are the keys of presses already counted or undone.
	Taken []string `json:"taken"`
	// Value is the time, s, once the timer has stopped; U is its standard uncertainty, and Reaction the
	// technician's part of it (their spread, s).
	Value    *float64 `json:"value"`
	Held     float64  `json:"held_s"`
	U        float64  `json:"u"`
	Reaction float64  `json:"reaction"`
	// Calibrated reports whether that spread is the technician's own, not the default.
	Calibrated bool   `json:"calibrated"`
	By         string `json:"by"`
	// Finish is the path of the finish line on this server, Pages how many pages it wants, Opened how many were
	// opened, Ended whether it stopped the timer.
	Finish string `json:"finish"`
	Pages  int    `json:"pages"`
	Opened int    `json:"opened"`
	Ended  bool   `json:"ended"`
	Series int    `json:"series"`
}

// HoldMS is a pause for the user on the bench's clock, ms; To is nil while it lasts.
type HoldMS struct {
	FromMS float64  `json:"from_ms"`
	ToMS   *float64 `json:"to_ms"`
}

func (x *Timers) timerView(ctx context.Context, j *job.Job, jobID string, t *timer) (*Timer, error) {
	own, err := x.reactionOf(ctx, t.By)
	if err != nil {
		return nil, err
	}
	v := &Timer{ID: t.ID, Job: jobID, Test: t.Test, Sitting: t.Sitting, State: t.Watch.State(), Phases: t.Watch.Phases,
		MarksMS: []float64{}, Holds: []HoldMS{}, Taken: append([]string{},
			t.Watch.Keys()...), NowMS: x.jobs.NowMS(), U: t.uncertainty(own), Reaction: own, Calibrated: own > 0,
		By:     t.By,
		Finish: FinishPath(t.Word, 1), Pages: 1, Opened: len(t.Opened), Ended: t.Watch.Ended, Series: t.Series}
	if own == 0 {
		v.Reaction = stopwatch.DefaultReaction
	}
	if test := j.Test(t.Test); test != nil {
		v.Name, v.Pages = test.Name, max(1, test.Pages)
	}
	if s := j.Sitting(t.Sitting); s != nil {
		v.Setup = s.Setup
	}
	for _, m := range t.Watch.Marks {
		v.MarksMS = append(v.MarksMS, m.At*1000)
	}
	for _, h := range t.Watch.Holds {
		hold := HoldMS{FromMS: h.From * 1000}
		if h.To != nil {
			to := *h.To * 1000
			hold.ToMS = &to
		}
		v.Holds = append(v.Holds, hold)
	}
	if timing, err := t.Watch.Timing(); err == nil {
		v.Value, v.Held = &timing.Value, timing.Held
	}
	return v, nil
}

// uncertainty is the standard uncertainty of the timer's value, s: from the technician's reaction, the finish
// line's round trip if it stopped the timer, and the clocks.
func (t *timer) uncertainty(reaction float64) float64 {
	presses := t.Watch.Presses()
	u := stopwatch.ByHand(reaction, presses)
	if t.Watch.Ended {
		u = stopwatch.ByFinishLine(reaction, presses, t.Trip/1000)
	}
	clocks := 0.0
	if timing, err := t.Watch.Timing(); err == nil {
		clocks = timing.U
	} else if len(t.Watch.Marks) > 0 {
		clocks = t.Watch.Marks[0].U
	}
	return math.Hypot(u, clocks)
}

func (x *Timers) loadTimer(ctx context.Context, jobID string) (*job.Job, *timer, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, nil, err
	}
	j := s.Job
	body, err := x.store.Timer(ctx, jobID)
	if errors.Is(err, store.ErrNotFound) {
		return j, nil, nil
	}
	if err != nil {
		return nil, nil, err
	}
	t := &timer{}
	if err := json.Unmarshal(body, t); err != nil {
		return nil, nil, fmt.Errorf("the timer of job %s: %w", jobID, err)
	}
	return j, t, nil
}

// save stores a timer within a change and returns its state, which is the change's answer.
func (x *Timers) save(ctx context.Context, ch *bench.Change, j *job.Job, jobID string, t *timer) (*Timer, error) {
	body, err := json.Marshal(t)
	if err != nil {
		return nil, err
	}
	if err := ch.Tx.SaveTimer(ctx, jobID, body); err != nil {
		return nil, err
	}
	return x.timerView(ctx, j, jobID, t)
}

// tell notifies the listeners of a job's timer; nil: there is none.
func (x *Timers) tell(jobID string, v *Timer) {
	e := bench.Event{Type: bench.TimerEvent, Job: jobID}
	if v != nil { // an empty interface, not one that holds nil
		e.Data = v
	}
	x.jobs.Tell(e)
}

// Timer returns the armed timer of a job, or nil.
func (x *Timers) Timer(ctx context.Context, jobID string) (*Timer, error) {
	j, t, err := x.loadTimer(ctx, jobID)
	if err != nil || t == nil {
		return nil, err
	}
	return x.timerView(ctx, j, jobID, t)
}

// Going is a running timer of some job.
type Going struct {
	Job   string `json:"job"`
	Setup string `json:"setup"`
	Test  string `json:"test"`
	Name  string `json:"name"`
}

// Going returns the running timers of all jobs.
func (x *Timers) Going(ctx context.Context) ([]Going, error) {
	all, err := x.store.Timers(ctx)
	if err != nil {
		return nil, err
	}
	list := []Going{}
	for _, id := range slices.Sorted(maps.Keys(all)) {
		t := &timer{}
		if err := json.Unmarshal(all[id], t); err != nil || t.Watch.State() != stopwatch.Running {
			continue
		}
		s, err := x.jobs.Load(ctx, id)
		if err != nil {
			continue // a damaged job has no card either
		}
		g := Going{Job: id, Test: t.Test}
		if sitting := s.Job.Sitting(t.Sitting); sitting != nil {
			g.Setup = sitting.Setup
		}
		if test := s.Job.Test(t.Test); test != nil {
			g.Name = test.Name
		}
		list = append(list, g)
	}
	return list, nil
}

// Arm makes a job's timer ready for a timed test in a sitting. It refuses to replace a timer that is running or
// holds an unsaved time.
//
// by is the technician; empty if not known.
func (x *Timers) Arm(ctx context.Context, ch *bench.Change, jobID, test, sitting, by string) (*Timer, error) {
	by = strings.TrimSpace(by)
	f := bench.Fields{}
	f.Name("by", by)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	var v *Timer
	err := x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		j, old, err := x.loadTimer(ctx, jobID)
		if err != nil {
			return err
		}
		if old != nil && (old.Watch.State() != stopwatch.Ready || old.Test == test && old.Sitting == sitting &&
			old.By == by) {
			if old.Test == test && old.Sitting == sitting {
				v, err = x.timerView(ctx, j, jobID, old) // it is armed for that already
				return err
			}
			c := bench.Refuse(bench.Conflict, "The timer holds a time for another test.")
			c.Kept, c.Do = "That time is kept.", "Keep it, or set it aside, first."
			return c
		}
		t := j.Test(test)
		switch {
		case t == nil:
			return bench.NoSuch("test", test)
		case !plan.ByHand(t):
			return bench.Refuse(bench.Invalid, "%s is not timed by hand.", t.Name)
		case j.Sitting(sitting) == nil:
			return bench.NoSuch("session", sitting)
		}
		v, err = x.save(ctx, ch, j, jobID, newTimer(t, sitting, by, x.jobs.NowMS()))
		return err
	})
	if err != nil {
		return nil, err
	}
	x.tell(jobID, v)
	return v, nil
}

func newTimer(t *job.Test, sitting, by string, nowMS float64) *timer {
	var phases []stopwatch.Phase
	for _, p := range t.Phases {
		phases = append(phases, stopwatch.Phase{ID: p.ID, Name: p.Name, Counts: p.Counted()})
	}
	return &timer{ID: bench.NewID(), Test: t.ID, Sitting: sitting, By: by, ArmedMS: nowMS, Word: newWord(),
		Watch: *stopwatch.New(phases)}
}

// aheadMS is how far ahead of the bench's clock a press may be.
const aheadMS = 5000

// changeTimer applies a change to the armed timer. named is the timer's id; "" is whichever is armed.
func (x *Timers) changeTimer(ctx context.Context, ch *bench.Change, jobID, named string,
	change func(*timer) error) (*Timer, error) {
	var v *Timer
	err := x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		j, t, err := x.loadTimer(ctx, jobID)
		if err != nil {
			return err
		}
		if t == nil || named != "" && named != t.ID {
			c := bench.Refuse(bench.Conflict, "No timer is armed in this job.")
			c.Do = "Pick a test and open the timer again."
			if t != nil {
				c = bench.Refuse(bench.Conflict, "That timer is no longer armed.")
				c.Kept, c.Do = "The timer that is armed now is unchanged.", "There is nothing to do."
			}
			return c
		}
		if err := change(t); err != nil {
			r := bench.Because(bench.Conflict, err)
			r.Kept = "The timer is unchanged."
			return r
		}
		v, err = x.save(ctx, ch, j, jobID, t)
		return err
	})
	if err != nil {
		return nil, err
	}
	x.tell(jobID, v)
	return v, nil
}

// lateMS is how long before arming a press may have been made: almost nothing if it may have been meant for
// another timer; if it names this one, as long as arming may have waited for the network.
func lateMS(named bool) float64 {
	if named {
		return 24 * 3600 * 1000
	}
	return aheadMS
}

// Press is an action on a timer on some device.
type Press struct {
	Key string `json:"key"` // makes a repeated press the same press
	// Timer is the timer that was pressed; "" is whichever is armed.
	Timer string  `json:"timer"`
	Kind  string  `json:"kind"`  // press (start, split, stop) or hold; empty is a press
	AtMS  float64 `json:"at_ms"` // on the bench's clock, as the device has it
	// UMS is how far the device's clock may be off the bench's, ms: half the round trip of its best exchange.
	UMS float64 `json:"u_ms"`
}

// maxClockMS is the largest clock uncertainty of a device; beyond it a press is refused.
const maxClockMS = 2000

// Press starts, splits or stops a job's timer, or begins or ends a pause. A repeated key counts once.
func (x *Timers) Press(ctx context.Context, ch *bench.Change, jobID string, p Press) (*Timer, error) {
	return x.changeTimer(ctx, ch, jobID, p.Timer, func(t *timer) error {
		switch now := x.jobs.NowMS(); {
		case math.IsNaN(p.AtMS) || p.AtMS < t.ArmedMS-lateMS(p.Timer != ""):
			return fmt.Errorf("the press is from before the timer was armed")
		case p.AtMS > now+aheadMS:
			return fmt.Errorf("the press is %.0f s in the future; the clocks are not lined up", (p.AtMS-now)/1000)
		case !(p.UMS >= 0 && p.UMS <= maxClockMS):
			return fmt.Errorf("the device's clock is only known to %.1f s; the network is too slow to time by it",
				p.UMS/1000)
		}
		switch p.Kind {
		case "", "press":
			// Half a round trip bounds the error: a rectangular distribution (JCGM 100, 4.3.7).
			return t.Watch.Press(p.Key, p.AtMS/1000, p.UMS/1000/math.Sqrt(3))
		case "hold":
			return t.Watch.Hold(p.Key, p.AtMS/1000)
		}
		return fmt.Errorf("a timer knows press and hold, not %q", p.Kind)
	})
}

// Undo undoes the last press of the named timer, or of whichever is armed. After a finish line's press the line
// waits again. A repeated key changes nothing.
func (x *Timers) Undo(ctx context.Context, ch *bench.Change, jobID, named, key string) (*Timer, error) {
	return x.changeTimer(ctx, ch, jobID, named, func(t *timer) error {
		ended := t.Watch.Ended
		if err := t.Watch.Undo(key); err != nil {
			return err
		}
		if ended && !t.Watch.Ended {
			t.Opened, t.Trip = nil, 0
		}
		return nil
	})
}

// Discard removes the timer without saving its time.
func (x *Timers) Discard(ctx context.Context, ch *bench.Change, jobID string) error {
	dropped := false
	err := x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		_, t, err := x.loadTimer(ctx, jobID)
		if err != nil || t == nil {
			return err
		}
		dropped = true
		return ch.Tx.DropTimer(ctx, jobID)
	})
	if err == nil && dropped {
		x.tell(jobID, nil)
	}
	return err
}

// Keeping is how to save a stopped timer.
type Keeping struct {
	bench.RunFacts
	// Timer is the timer to save; "" is whichever is armed.
	Timer string `json:"timer"`
	// Again arms the timer for the same test; Series arms it automatically for that many further runs.
	Again  bool `json:"again"`
	Series *int `json:"series"`
	// SetAside is the reason if the run is set aside at once; empty if it counts.
	SetAside string `json:"set_aside"`
}

// maxSeries bounds a series.
const maxSeries = 20

func (k Keeping) check() error {
	f := bench.Fields{}
	f.Input("", k.RunFacts)
	f.Check(k.Series == nil || *k.Series >= 0 && *k.Series <= maxSeries, "series",
		fmt.Sprintf("A series has up to %d runs.", maxSeries))
	f.Text("set_aside", k.SetAside)
	return f.Refusal()
}

// Keep saves the stopped timer as a run, and arms it again for the same test if requested or if a series
// continues. Both are one change.
func (x *Timers) Keep(ctx context.Context, ch *bench.Change, jobID string, k Keeping) (*bench.View, error) {
	if err := k.check(); err != nil {
		return nil, err
	}
	var next *Timer
	v, err := x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		_, t, err := x.loadTimer(ctx, jobID)
		if err != nil {
			return err
		}
		if t == nil || k.Timer != "" && k.Timer != t.ID {
			return bench.Refuse(bench.Conflict, "That timer is no longer armed. Its time may already be kept.")
		}
		test := j.Test(t.Test)
		if test == nil {
			return bench.NoSuch("test", t.Test)
		}
		r, err := x.timedRun(ctx, t, test)
		if err != nil {
			return err
		}
		k.Onto(r)
		if why := strings.TrimSpace(k.SetAside); why != "" {
			r.SetAside = &job.SetAside{Reason: why}
		}
		if err := bench.AddRun(j, *r, x.jobs.Now()); err != nil {
			return err
		}
		left := t.Series
		if k.Series != nil {
			left = *k.Series
		}
		if !k.Again && left == 0 {
			return ch.Tx.DropTimer(ctx, jobID)
		}
		n := newTimer(test, t.Sitting, t.By, x.jobs.NowMS())
		n.Series = max(0, left-1)
		next, err = x.save(ctx, ch, j, jobID, n)
		return err
	})
	if err != nil {
		return nil, err
	}
	x.tell(jobID, next)
	return v, nil
}

// timedRun is the run of a stopped timer.
func (x *Timers) timedRun(ctx context.Context, t *timer, test *job.Test) (*job.Run, error) {
	timing, err := t.Watch.Timing()
	if err != nil {
		return nil, bench.Because(bench.Conflict, err)
	}
	own, err := x.reactionOf(ctx, t.By)
	if err != nil {
		return nil, err
	}
	u := t.uncertainty(own)
	// The run has the time at which it was timed, not saved.
	at := x.jobs.TimeOf(t.Watch.Marks[0].At * 1000)
	r := &job.Run{ID: bench.NewID(), Test: t.Test, At: at, Sitting: t.Sitting, Method: job.Stopwatch, U: &u, By: t.By}
	// Hand timing isn't more precise than milliseconds; the value is the sum of the rounded phases.
	ms := func(s float64) float64 { return math.Round(s*1000) / 1000 }
	r.Held = ms(timing.Held)
	if t.Watch.Ended {
		r.Method = job.FinishLine
		r.Note = t.pagesInWords()
	}
	if len(test.Phases) == 0 {
		r.Value = ms(timing.Value)
		return r, nil
	}
	r.Phases = map[string]float64{}
	for _, p := range test.Phases {
		d, ok := timing.Phases[p.ID]
		if !ok {
			continue // a finish came before
		}
		r.Phases[p.ID] = ms(d)
		if p.Counted() {
			r.Value += ms(d)
		}
	}
	return r, nil
}
