package bench

import (
	"context"
	"errors"
	"fmt"
	"math"

	"github.com/go-json-experiment/json"

	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/stopwatch"
	"nowthen/store"
)

// timer is a job's stopwatch as it is stored. Marks are seconds on the bench's
// clock since 1970, so that it goes on over a restart of the program.
type timer struct {
	Test    string          `json:"test"`
	Sitting string          `json:"sitting"`
	ArmedMS float64         `json:"armed_ms"`
	Watch   stopwatch.Watch `json:"watch"`
}

// Timer is a job's stopwatch as it is now.
type Timer struct {
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
	// Value, in s, stands where the timer has stopped; U is its standard uncertainty.
	Value *float64 `json:"value"`
	U     float64  `json:"u"`
}

func (b *Bench) timerView(j *job.Job, jobID string, t *timer) *Timer {
	v := &Timer{Job: jobID, Test: t.Test, Sitting: t.Sitting, State: t.Watch.State(), Phases: t.Watch.Phases,
		MarksMS: []float64{}, NowMS: b.NowMS(), U: stopwatch.ByHand(0)}
	if test := j.Test(t.Test); test != nil {
		v.Name = test.Name
	}
	if s := j.Sitting(t.Sitting); s != nil {
		v.Setup = s.Setup
	}
	for _, m := range t.Watch.Marks {
		v.MarksMS = append(v.MarksMS, m.At*1000)
	}
	if timing, err := t.Watch.Timing(); err == nil {
		v.Value = &timing.Value
	}
	return v
}

func (b *Bench) loadTimer(ctx context.Context, jobID string) (*job.Job, *timer, error) {
	j, err := b.store.Job(ctx, jobID)
	if err != nil {
		return nil, nil, wrap(err)
	}
	body, err := b.store.Timer(ctx, jobID)
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

func (b *Bench) saveTimer(ctx context.Context, j *job.Job, jobID string, t *timer) (*Timer, error) {
	body, err := json.Marshal(t)
	if err != nil {
		return nil, err
	}
	if err := b.store.SaveTimer(ctx, jobID, body); err != nil {
		return nil, err
	}
	v := b.timerView(j, jobID, t)
	b.hub.tell(Event{Type: "timer", Job: jobID, Data: v})
	return v, nil
}

func (b *Bench) dropTimer(ctx context.Context, jobID string) error {
	if err := b.store.DropTimer(ctx, jobID); err != nil {
		return err
	}
	b.hub.tell(Event{Type: "timer", Job: jobID})
	return nil
}

// Timer returns the armed timer of a job, or nil.
func (b *Bench) Timer(ctx context.Context, jobID string) (*Timer, error) {
	j, t, err := b.loadTimer(ctx, jobID)
	if err != nil || t == nil {
		return nil, err
	}
	return b.timerView(j, jobID, t), nil
}

// ArmTimer makes a job's timer ready for a timed test in a sitting. A timer
// that is running or holds an unkept time is not taken away by this.
func (b *Bench) ArmTimer(ctx context.Context, jobID, test, sitting string) (*Timer, error) {
	b.timing.Lock()
	defer b.timing.Unlock()
	j, old, err := b.loadTimer(ctx, jobID)
	if err != nil {
		return nil, err
	}
	if old != nil && old.Watch.State() != stopwatch.Ready {
		if old.Test == test && old.Sitting == sitting {
			return b.timerView(j, jobID, old), nil // it is armed for that already
		}
		c := conflict("The timer of this job holds a time of another test.")
		c.Kept, c.Do = "That time is still there.", "Keep or discard it first."
		return nil, c
	}
	t := j.Test(test)
	switch {
	case t == nil:
		return nil, missing("There is no test %q in this job.", test)
	case !plan.ByHand(t):
		return nil, invalid("%s is not timed by hand.", t.Name)
	case j.Sitting(sitting) == nil:
		return nil, missing("There is no sitting %q in this job.", sitting)
	}
	return b.saveTimer(ctx, j, jobID, newTimer(t, sitting, b.NowMS()))
}

func newTimer(t *job.Test, sitting string, nowMS float64) *timer {
	var phases []stopwatch.Phase
	for _, p := range t.Phases {
		phases = append(phases, stopwatch.Phase{ID: p.ID, Name: p.Name, Counts: p.Counted()})
	}
	return &timer{Test: t.ID, Sitting: sitting, ArmedMS: nowMS, Watch: *stopwatch.New(phases)}
}

// aheadMS is how far ahead of the bench's clock a press may claim to be.
const aheadMS = 5000

// changeTimer applies a change to the armed timer.
func (b *Bench) changeTimer(ctx context.Context, jobID string, change func(*timer) error) (*Timer, error) {
	b.timing.Lock()
	defer b.timing.Unlock()
	j, t, err := b.loadTimer(ctx, jobID)
	if err != nil {
		return nil, err
	}
	if t == nil {
		c := conflict("No timer is armed in this job.")
		c.Do = "Pick a test and open the timer again."
		return nil, c
	}
	if err := change(t); err != nil {
		r := conflict("%s.", upperFirst(err.Error()))
		r.Kept = "The timer is as it was."
		return nil, r
	}
	return b.saveTimer(ctx, j, jobID, t)
}

// PressTimer starts, splits or stops a job's timer at a time of the bench's
// clock, ms. The same key twice is one press.
func (b *Bench) PressTimer(ctx context.Context, jobID, key string, atMS float64) (*Timer, error) {
	return b.changeTimer(ctx, jobID, func(t *timer) error {
		switch now := b.NowMS(); {
		case math.IsNaN(atMS) || atMS < t.ArmedMS-aheadMS:
			return fmt.Errorf("the press is from before the timer was armed")
		case atMS > now+aheadMS:
			return fmt.Errorf("the press is %.0f s in the future; the clocks are not lined up", (atMS-now)/1000)
		}
		return t.Watch.Press(key, atMS/1000)
	})
}

// UndoTimer takes the last press back.
func (b *Bench) UndoTimer(ctx context.Context, jobID string) (*Timer, error) {
	return b.changeTimer(ctx, jobID, func(t *timer) error { return t.Watch.Undo() })
}

// DiscardTimer takes the timer away without keeping its time.
func (b *Bench) DiscardTimer(ctx context.Context, jobID string) error {
	b.timing.Lock()
	defer b.timing.Unlock()
	_, t, err := b.loadTimer(ctx, jobID)
	if err != nil || t == nil {
		return err
	}
	return b.dropTimer(ctx, jobID)
}

// KeepTimer makes a run of the stopped timer, and arms it again for the same
// test where that is wanted.
func (b *Bench) KeepTimer(ctx context.Context, jobID string, again bool) (*View, error) {
	b.timing.Lock()
	defer b.timing.Unlock()
	j, t, err := b.loadTimer(ctx, jobID)
	if err != nil {
		return nil, err
	}
	if t == nil {
		return nil, conflict("No timer is armed in this job; its time may have been kept already.")
	}
	timing, err := t.Watch.Timing()
	if err != nil {
		return nil, conflict("%s.", upperFirst(err.Error()))
	}
	u := stopwatch.ByHand(0)
	r := job.Run{Test: t.Test, Sitting: t.Sitting, Method: job.Stopwatch, U: &u}
	test := j.Test(t.Test)
	if test == nil {
		return nil, missing("There is no test %q in this job any more.", t.Test)
	}
	// Milliseconds are more than a hand can do; the value is the sum of what is kept.
	if len(test.Phases) == 0 {
		r.Value = math.Round(timing.Value*1000) / 1000
	} else {
		r.Phases = map[string]float64{}
		for _, p := range test.Phases {
			d := math.Round(timing.Phases[p.ID]*1000) / 1000
			r.Phases[p.ID] = d
			if p.Counted() {
				r.Value += d
			}
		}
	}
	// Keep and drop are two steps; the run's id comes from the timer, so that a
	// repeat after a crash between them does not make it twice.
	r.ID = fmt.Sprintf("%s-%.0f", t.Test, t.ArmedMS)
	v, err := b.update(ctx, jobID, func(j *job.Job) error {
		if j.Run(r.ID) != nil {
			return nil
		}
		return b.addRun(j, r)
	})
	if err != nil {
		return nil, err
	}
	if again {
		_, err = b.saveTimer(ctx, v.Job, jobID, newTimer(v.Job.Test(t.Test), t.Sitting, b.NowMS()))
	} else {
		err = b.dropTimer(ctx, jobID)
	}
	return v, err
}
