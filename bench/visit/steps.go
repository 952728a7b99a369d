package visit

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
)

// Work is other work in a request.
type Work struct {
	At   time.Time    `json:"at"`
	What job.WorkKind `json:"what"`
	Note string       `json:"note"`
	// Touches is false if it changed nothing that is measured; nil is unknown.
	Touches *bool `json:"touches"`
	// Fitted is the changed parts, if the work changed any.
	Fitted *Fitted `json:"fitted"`
}

// WorkChange is a change of other work; nil members stay unchanged.
type WorkChange struct {
	At      *time.Time    `json:"at"`
	What    *job.WorkKind `json:"what"`
	Note    *string       `json:"note"`
	Touches *bool         `json:"touches"`
}

// Fitted are parts other than the drive.
type Fitted struct {
	MemoryBytes int64  `json:"memory_bytes" validate:"min=0,max=70368744177664" say:"A computer has between 0 and 65,536 GiB of memory; give it in GiB."`
	Processor   string `json:"processor" validate:"max=200"`
	Graphics    string `json:"graphics" validate:"max=200"`
}

// NoteWork adds other work to the visit at its time; a zero time means now.
func (x *Visits) NoteWork(ctx context.Context, ch *bench.Change, jobID string, in Work) (*bench.View, error) {
	w := job.Work{ID: bench.NewID(), At: in.At, What: in.What, Note: in.Note, Touches: in.Touches}
	f := bench.Fields{}
	f.Check(slices.Contains(job.WorkKinds, w.What), "what",
		fmt.Sprintf("Choose one of %s.", job.Join(job.WorkKinds)))
	f.Text("note", w.Note)
	if in.Fitted != nil {
		f.Input("fitted", *in.Fitted)
	}
	if w.At.IsZero() {
		w.At = x.jobs.Now()
	}
	f.Check(w.At.Before(x.jobs.Now().Add(time.Minute)), "at", "That is in the future.")
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	if in.Fitted != nil {
		w.Fitted = &job.Fitted{MemoryBytes: in.Fitted.MemoryBytes, Processor: strings.TrimSpace(in.Fitted.Processor),
			Graphics: strings.TrimSpace(in.Fitted.Graphics)}
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		j.Head.Work = append(j.Head.Work, w)
		slices.SortStableFunc(j.Head.Work, func(a, c job.Work) int { return a.At.Compare(c.At) })
		if w.Fitted != nil {
			fitSince(j, *w.Fitted, w.At)
		}
		return nil
	})
}

// AmendWork changes other work. Parts that it fitted stay.
func (x *Visits) AmendWork(ctx context.Context, ch *bench.Change, jobID, work string,
	c WorkChange) (*bench.View, error) {
	return x.onWork(ctx, ch, jobID, work, func(j *job.Job, i int) error {
		w := &j.Head.Work[i]
		if c.At != nil {
			w.At = *c.At
		}
		if c.What != nil {
			w.What = *c.What
		}
		if c.Note != nil {
			w.Note = strings.TrimSpace(*c.Note)
		}
		if c.Touches != nil {
			w.Touches = c.Touches
		}
		f := bench.Fields{}
		f.Check(slices.Contains(job.WorkKinds, w.What), "what",
			fmt.Sprintf("Choose one of %s.", job.Join(job.WorkKinds)))
		f.Text("note", w.Note)
		f.Check(w.At.Before(x.jobs.Now().Add(time.Minute)), "at", "That is in the future.")
		slices.SortStableFunc(j.Head.Work, func(a, c job.Work) int { return a.At.Compare(c.At) })
		return f.Refusal()
	})
}

// DropWork removes other work from the job. Parts that it fitted stay.
func (x *Visits) DropWork(ctx context.Context, ch *bench.Change, jobID, work string) (*bench.View, error) {
	return x.onWork(ctx, ch, jobID, work, func(j *job.Job, i int) error {
		j.Head.Work = slices.Delete(j.Head.Work, i, i+1)
		return nil
	})
}

// onWork changes a job's other work with an id.
func (x *Visits) onWork(ctx context.Context, ch *bench.Change, jobID, work string,
	change func(j *job.Job, i int) error) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		i := slices.IndexFunc(j.Head.Work, func(w job.Work) bool { return w.ID == work && work != "" })
		if i < 0 {
			return bench.NoSuch("other work", work)
		}
		return change(j, i)
	})
}

// fitSince sets the fitted parts of all setups that weren't measured before some work; earlier ones keep
// theirs.
func fitSince(j *job.Job, now job.Fitted, at time.Time) {
	for i := range j.Setups {
		s := &j.Setups[i]
		if slices.ContainsFunc(j.Sittings,
			func(x job.Sitting) bool { return x.Setup == s.ID && x.Started.Before(at) }) || s.Role == job.Then {
			continue
		}
		fitted := job.Fitted{}
		if s.Fitted != nil {
			fitted = *s.Fitted
		}
		if now.MemoryBytes > 0 {
			fitted.MemoryBytes = now.MemoryBytes
		}
		fitted.Processor, fitted.Graphics = cmp.Or(now.Processor, fitted.Processor),
			cmp.Or(now.Graphics, fitted.Graphics)
		s.Fitted = &fitted
	}
}

// fittedSince is the parts fitted by the work so far, for a new setup, or nil.
func fittedSince(j *job.Job) *job.Fitted {
	var f *job.Fitted
	for _, w := range j.Head.Work {
		if w.Fitted == nil {
			continue
		}
		if f == nil {
			f = &job.Fitted{}
		}
		if w.Fitted.MemoryBytes > 0 {
			f.MemoryBytes = w.Fitted.MemoryBytes
		}
		f.Processor, f.Graphics = cmp.Or(w.Fitted.Processor, f.Processor), cmp.Or(w.Fitted.Graphics, f.Graphics)
	}
	return f
}

// Tick ticks or unticks a step of the visit.
func (x *Visits) Tick(ctx context.Context, ch *bench.Change, jobID, step string, done bool,
	by string) (*bench.View, error) {
	by = strings.TrimSpace(by)
	f := bench.Fields{}
	f.Name("by", by)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		s := j.Step(step)
		switch {
		case s == nil:
			return bench.NoSuch("step", step)
		case !done:
			s.Done, s.Fact = nil, "" // what a person took off does not tick itself again
		case s.Done == nil:
			s.Done = &job.Tick{At: x.jobs.Now(), By: by}
		}
		return nil
	})
}

var stations = []string{job.WhenThen, job.WhenPrepare, job.WhenSwap, job.WhenNow, job.WhenBack}

// AddStep adds a custom step.
func (x *Visits) AddStep(ctx context.Context, ch *bench.Change, jobID, text, when string) (*bench.View, error) {
	text = strings.TrimSpace(text)
	f := bench.Fields{}
	f.Check(text != "", "text", "Describe the step.")
	f.Text("text", text)
	f.Check(slices.Contains(stations, when), "when",
		fmt.Sprintf("Choose one of %s.", strings.Join(stations, ", ")))
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		id := bench.FreeID("own-", 0, func(id string) bool { return j.Step(id) != nil })
		j.Plan.Steps = append(j.Plan.Steps, job.Step{ID: id, Text: text, When: when})
		return nil
	})
}

// DropStep removes a step. A step with a tick or photos stays: it was done.
func (x *Visits) DropStep(ctx context.Context, ch *bench.Change, jobID, step string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		s := j.Step(step)
		switch {
		case s == nil:
			return bench.NoSuch("step", step)
		case s.Done != nil || len(s.Photos) > 0:
			c := bench.Refuse(bench.Conflict, "This step is done or has photos.")
			c.Do = "Untick it first. Steps with photos can’t be removed."
			return c
		}
		j.Plan.Steps = slices.DeleteFunc(j.Plan.Steps, func(s job.Step) bool { return s.ID == step })
		return nil
	})
}
