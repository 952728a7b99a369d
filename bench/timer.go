package bench

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

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
	// By is the technician, whose own reaction counts.
	By string `json:"by,omitzero"`
	// Word opens this timer's finish line, and nothing else.
	Word string `json:"word,omitzero"`
	// Opened are the pages of the finish line that were opened, when, ms; Trip is
	// the longest time from sending one to its picture being asked for, ms.
	Opened map[int]float64 `json:"opened,omitempty"`
	Trip   float64         `json:"trip_ms,omitzero"`
	// Series is how many runs are still to follow this one by themselves.
	Series int `json:"series,omitzero"`
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
	Holds   []HoldMS  `json:"holds"`
	// Taken are the keys of the presses that are in it already, or were taken back.
	Taken []string `json:"taken"`
	// Value, in s, stands where the timer has stopped; U is its standard
	// uncertainty, of which Reaction is the technician's own part (their spread, s).
	Value    *float64 `json:"value"`
	Held     float64  `json:"held_s"`
	U        float64  `json:"u"`
	Reaction float64  `json:"reaction"`
	// Calibrated tells whether that spread is the technician's own or a usual one.
	Calibrated bool   `json:"calibrated"`
	By         string `json:"by"`
	// Finish is the path of the finish line on this server, Pages how many pages it
	// wants, Opened how many were, Ended whether it stopped the timer.
	Finish string `json:"finish"`
	Pages  int    `json:"pages"`
	Opened int    `json:"opened"`
	Ended  bool   `json:"ended"`
	Series int    `json:"series"`
}

// HoldMS is a stretch of the human's part on the bench's clock, ms; To is nil
// while it lasts.
type HoldMS struct {
	FromMS float64  `json:"from_ms"`
	ToMS   *float64 `json:"to_ms"`
}

func (b *Bench) timerView(ctx context.Context, j *job.Job, jobID string, t *timer) (*Timer, error) {
	own, err := b.reactionOf(ctx, t.By)
	if err != nil {
		return nil, err
	}
	v := &Timer{Job: jobID, Test: t.Test, Sitting: t.Sitting, State: t.Watch.State(), Phases: t.Watch.Phases,
		MarksMS: []float64{}, Holds: []HoldMS{}, Taken: append([]string{}, t.Watch.Keys()...), NowMS: b.NowMS(), U: t.uncertainty(own), Reaction: own, Calibrated: own > 0, By: t.By,
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

// uncertainty is the standard uncertainty of the timer's value, s: the
// technician's reaction, the finish line's round trip where one stopped it, and
// what is left of the clocks.
func (t *timer) uncertainty(reaction float64) float64 {
	u := stopwatch.ByHand(reaction)
	if t.Watch.Ended {
		u = stopwatch.ByFinishLine(reaction, t.Trip/1000)
	}
	clocks := 0.0
	if timing, err := t.Watch.Timing(); err == nil {
		clocks = timing.U
	} else if len(t.Watch.Marks) > 0 {
		clocks = t.Watch.Marks[0].U
	}
	return math.Hypot(u, clocks)
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
	v, err := b.timerView(ctx, j, jobID, t)
	if err != nil {
		return nil, err
	}
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
	return b.timerView(ctx, j, jobID, t)
}

// ArmTimer makes a job's timer ready for a timed test in a sitting. A timer
// that is running or holds an unkept time is not taken away by this.
//
// by is the technician; empty where nobody said.
func (b *Bench) ArmTimer(ctx context.Context, jobID, test, sitting, by string) (*Timer, error) {
	by = strings.TrimSpace(by)
	f := fields{}
	checkText(f, "by", by)
	if err := f.refusal(); err != nil {
		return nil, err
	}
	b.timing.Lock()
	defer b.timing.Unlock()
	j, old, err := b.loadTimer(ctx, jobID)
	if err != nil {
		return nil, err
	}
	if old != nil && old.Watch.State() != stopwatch.Ready {
		if old.Test == test && old.Sitting == sitting {
			return b.timerView(ctx, j, jobID, old) // it is armed for that already
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
	return b.saveTimer(ctx, j, jobID, newTimer(t, sitting, by, b.NowMS()))
}

func newTimer(t *job.Test, sitting, by string, nowMS float64) *timer {
	var phases []stopwatch.Phase
	for _, p := range t.Phases {
		phases = append(phases, stopwatch.Phase{ID: p.ID, Name: p.Name, Counts: p.Counted()})
	}
	return &timer{Test: t.ID, Sitting: sitting, By: by, ArmedMS: nowMS, Word: newWord(), Watch: *stopwatch.New(phases)}
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

// Press is something done to a running timer on a device.
type Press struct {
	Key  string  `json:"key"`   // makes a repeated press the same press
	Kind string  `json:"kind"`  // press (start, split, stop) or hold; empty is a press
	AtMS float64 `json:"at_ms"` // on the bench's clock, as the device has it
	// UMS is how far the device's clock may be from the bench's, ms: half of the
	// round trip of its best exchange.
	UMS float64 `json:"u_ms"`
}

// maxClockMS bounds how unsure a device's clock may be; beyond it a press says
// nothing.
const maxClockMS = 2000

// PressTimer starts, splits or stops a job's timer, or begins or ends a hold. The
// same key twice is one press.
func (b *Bench) PressTimer(ctx context.Context, jobID string, p Press) (*Timer, error) {
	return b.changeTimer(ctx, jobID, func(t *timer) error {
		switch now := b.NowMS(); {
		case math.IsNaN(p.AtMS) || p.AtMS < t.ArmedMS-aheadMS:
			return fmt.Errorf("the press is from before the timer was armed")
		case p.AtMS > now+aheadMS:
			return fmt.Errorf("the press is %.0f s in the future; the clocks are not lined up", (p.AtMS-now)/1000)
		case !(p.UMS >= 0 && p.UMS <= maxClockMS):
			return fmt.Errorf("the device's clock is only known to %.1f s; the network is too slow to time by it", p.UMS/1000)
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

// UndoTimer takes the last press back. After a finish line's the line waits anew.
func (b *Bench) UndoTimer(ctx context.Context, jobID string) (*Timer, error) {
	return b.changeTimer(ctx, jobID, func(t *timer) error {
		if t.Watch.Ended {
			t.Opened, t.Trip = nil, 0
		}
		return t.Watch.Undo()
	})
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

// Keeping says how a stopped timer is kept.
type Keeping struct {
	// Again arms the timer for the same test; Series asks for so many runs by
	// themselves after this one.
	Again  bool `json:"again"`
	Series *int `json:"series"`
	// What the run was; empty leaves what the test says.
	Warmth     string `json:"warmth"`
	StartKind  string `json:"start_kind"`
	AppVersion string `json:"app_version"`
	Content    string `json:"content"` // which save or document
	SinceStart int    `json:"since_start"`
}

// maxSeries bounds a series.
const maxSeries = 20

func (k Keeping) check() error {
	f := fields{}
	f.check(slices.Contains([]string{"", "cold", "warm"}, k.Warmth), "warmth", "A run is cold or warm.")
	f.check(slices.Contains([]string{"", "cold", "resume-assisted"}, k.StartKind), "start_kind", "A start is cold or resume-assisted.")
	checkText(f, "app_version", k.AppVersion)
	checkText(f, "content", k.Content)
	f.check(k.SinceStart >= 0 && k.SinceStart <= 1000, "since_start", "Between 1 and 1000 times since the start.")
	f.check(k.Series == nil || *k.Series >= 0 && *k.Series <= maxSeries, "series", fmt.Sprintf("A series has up to %d runs.", maxSeries))
	return f.refusal()
}

// KeepTimer makes a run of the stopped timer, and arms it again for the same
// test where that is wanted or a series goes on.
func (b *Bench) KeepTimer(ctx context.Context, jobID string, k Keeping) (*View, error) {
	if err := k.check(); err != nil {
		return nil, err
	}
	b.timing.Lock()
	defer b.timing.Unlock()
	j, t, err := b.loadTimer(ctx, jobID)
	if err != nil {
		return nil, err
	}
	if t == nil {
		return nil, conflict("No timer is armed in this job; its time may have been kept already.")
	}
	test := j.Test(t.Test)
	if test == nil {
		return nil, missing("There is no test %q in this job any more.", t.Test)
	}
	r, err := b.timedRun(ctx, t, test)
	if err != nil {
		return nil, err
	}
	r.Warmth, r.StartKind, r.AppVersion, r.ContentDigest, r.SinceStart = k.Warmth, k.StartKind, strings.TrimSpace(k.AppVersion), strings.TrimSpace(k.Content), k.SinceStart
	v, err := b.update(ctx, jobID, func(j *job.Job) error {
		if j.Run(r.ID) != nil {
			return nil
		}
		return b.addRun(j, *r)
	})
	if err != nil {
		return nil, err
	}
	left := t.Series
	if k.Series != nil {
		left = *k.Series
	}
	if k.Again || left > 0 {
		next := newTimer(v.Job.Test(t.Test), t.Sitting, t.By, b.NowMS())
		next.Series = max(0, left-1)
		_, err = b.saveTimer(ctx, v.Job, jobID, next)
	} else {
		err = b.dropTimer(ctx, jobID)
	}
	return v, err
}

// timedRun is what a stopped timer gives.
func (b *Bench) timedRun(ctx context.Context, t *timer, test *job.Test) (*job.Run, error) {
	timing, err := t.Watch.Timing()
	if err != nil {
		return nil, conflict("%s.", upperFirst(err.Error()))
	}
	own, err := b.reactionOf(ctx, t.By)
	if err != nil {
		return nil, err
	}
	u := t.uncertainty(own)
	// Keep and drop are two steps; the run's id comes from the timer, so that a
	// repeat after a crash between them does not make it twice.
	r := &job.Run{ID: fmt.Sprintf("%s-%.0f", t.Test, t.ArmedMS), Test: t.Test, Sitting: t.Sitting, Method: job.Stopwatch, U: &u, By: t.By}
	// Milliseconds are more than a hand can do; the value is the sum of what is kept.
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
