package visit

import (
	"context"
	"slices"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
)

// Work is what is said of other work.
type Work struct {
	At   time.Time `json:"at"`
	What string    `json:"what"`
	Note string    `json:"note"`
}

// NoteWork notes other work of the visit where it happened in time; a zero time
// means now.
func (x *Visits) NoteWork(ctx context.Context, jobID string, in Work) (*bench.View, error) {
	w := job.Work{At: in.At, What: in.What, Note: in.Note}
	f := bench.Fields{}
	f.Check(slices.Contains(job.WorkKinds, w.What), "what", "Other work is "+strings.Join(job.WorkKinds, ", ")+".")
	f.Text("note", w.Note)
	if w.At.IsZero() {
		w.At = x.jobs.Now()
	}
	f.Check(w.At.Before(x.jobs.Now().Add(time.Minute)), "at", "That lies in the future.")
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, jobID, func(ctx context.Context, j *job.Job) error {
		j.Head.Work = append(j.Head.Work, w)
		slices.SortStableFunc(j.Head.Work, func(a, c job.Work) int { return a.At.Compare(c.At) })
		return nil
	})
}

// Tick ticks a step of the visit, or takes the tick off.
func (x *Visits) Tick(ctx context.Context, jobID, step string, done bool, by string) (*bench.View, error) {
	by = strings.TrimSpace(by)
	f := bench.Fields{}
	f.Text("by", by)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, jobID, func(ctx context.Context, j *job.Job) error {
		s := j.Step(step)
		switch {
		case s == nil:
			return bench.Missingf("There is no step %q in this job.", step)
		case !done:
			s.Done, s.Fact = nil, "" // what a person took off does not tick itself again
		case s.Done == nil:
			s.Done = &job.Tick{At: x.jobs.Now(), By: by}
		}
		return nil
	})
}

var stations = []string{job.WhenThen, job.WhenSwap, job.WhenNow, job.WhenBack}

// AddStep adds a step of the technician's own.
func (x *Visits) AddStep(ctx context.Context, jobID, text, when string) (*bench.View, error) {
	text = strings.TrimSpace(text)
	f := bench.Fields{}
	f.Check(text != "", "text", "Say what is to be done.")
	f.Text("text", text)
	f.Check(slices.Contains(stations, when), "when", "A step belongs to "+strings.Join(stations, ", ")+".")
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, jobID, func(ctx context.Context, j *job.Job) error {
		id := bench.FreeID("own-", 0, func(id string) bool { return j.Step(id) != nil })
		j.Plan.Steps = append(j.Plan.Steps, job.Step{ID: id, Text: text, When: when})
		return nil
	})
}

// DropStep takes a step off the list. One with a tick or photos stays: it was done.
func (x *Visits) DropStep(ctx context.Context, jobID, step string) (*bench.View, error) {
	return x.jobs.Change(ctx, jobID, func(ctx context.Context, j *job.Job) error {
		s := j.Step(step)
		switch {
		case s == nil:
			return bench.Missingf("There is no step %q in this job.", step)
		case s.Done != nil || len(s.Photos) > 0:
			c := bench.Conflictf("That step is done, or has photos.")
			c.Do = "Take its tick off first; photos stay."
			return c
		}
		j.Plan.Steps = slices.DeleteFunc(j.Plan.Steps, func(s job.Step) bool { return s.ID == step })
		return nil
	})
}
