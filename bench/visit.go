package bench

import (
	"context"
	"slices"
	"strings"
	"time"

	"nowthen/core/job"
)

// workKinds are what other work can be.
var workKinds = []string{"cleaning", "memory", "cooling", "firmware", "drivers", "tidying", "other"}

// NoteWork notes other work of the visit where it happened in time; a zero time
// means now.
func (b *Bench) NoteWork(ctx context.Context, jobID string, w job.Work) (*View, error) {
	f := fields{}
	f.check(slices.Contains(workKinds, w.What), "what", "Other work is "+strings.Join(workKinds, ", ")+".")
	checkText(f, "note", w.Note)
	if w.At.IsZero() {
		w.At = b.now()
	}
	f.check(w.At.Before(b.now().Add(time.Minute)), "at", "That lies in the future.")
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		j.Head.Work = append(j.Head.Work, w)
		slices.SortStableFunc(j.Head.Work, func(a, c job.Work) int { return a.At.Compare(c.At) })
		return nil
	})
}

// Tick ticks a step of the visit, or takes the tick off.
func (b *Bench) Tick(ctx context.Context, jobID, step string, done bool, by string) (*View, error) {
	by = strings.TrimSpace(by)
	f := fields{}
	checkText(f, "by", by)
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		s := j.Step(step)
		switch {
		case s == nil:
			return missing("There is no step %q in this job.", step)
		case !done:
			s.Done, s.Fact = nil, "" // what a person took off does not tick itself again
		case s.Done == nil:
			s.Done = &job.Tick{At: b.now(), By: by}
		}
		return nil
	})
}

var stations = []string{"then", "swap", "now", "back"}

// AddStep adds a step of the technician's own.
func (b *Bench) AddStep(ctx context.Context, jobID, text, when string) (*View, error) {
	text = strings.TrimSpace(text)
	f := fields{}
	f.check(text != "", "text", "Say what is to be done.")
	checkText(f, "text", text)
	f.check(slices.Contains(stations, when), "when", "A step belongs to "+strings.Join(stations, ", ")+".")
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		id := freeID("own-", 0, func(id string) bool { return j.Step(id) != nil })
		j.Plan.Steps = append(j.Plan.Steps, job.Step{ID: id, Text: text, When: when})
		return nil
	})
}

// DropStep takes a step off the list. One with a tick or photos stays: it was done.
func (b *Bench) DropStep(ctx context.Context, jobID, step string) (*View, error) {
	return b.update(ctx, jobID, func(j *job.Job) error {
		s := j.Step(step)
		switch {
		case s == nil:
			return missing("There is no step %q in this job.", step)
		case s.Done != nil || len(s.Photos) > 0:
			c := conflict("That step is done, or has photos.")
			c.Do = "Take its tick off first; photos stay."
			return c
		}
		j.Plan.Steps = slices.DeleteFunc(j.Plan.Steps, func(s job.Step) bool { return s.ID == step })
		return nil
	})
}
