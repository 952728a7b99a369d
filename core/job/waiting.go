package job

import (
	"slices"
	"time"

	"github.com/go-json-experiment/json/jsontext"
)

// WaitingRun is a run that nobody at the bench asked for.
type WaitingRun struct {
	From WaitingSource `json:"from"` // probe link
	// Of identifies the probe or the link.
	Of  string    `json:"of,omitzero"`
	At  time.Time `json:"at"`
	Why string    `json:"why,omitzero"` // it waits
	// Run is the measured run; accepting it adds it to the job under its id.
	Run Run `json:"run"`
	// Discarded is when a technician discarded it; nil if nobody has.
	Discarded *time.Time `json:"discarded,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// MaxWaiting is how many runs of a job wait at most, and MaxPerLink how many of one link.
const (
	MaxWaiting = 500
	MaxPerLink = 12
)

// Waits returns the waiting run with an id, or nil.
func (j *Job) Waits(id string) *WaitingRun {
	return find(j.Head.Waiting, func(w *WaitingRun) bool { return w.Run.ID == id })
}

// WaitingFrom counts the waiting runs of a probe or link, those that were discarded included.
func (j *Job) WaitingFrom(of string) (n int) {
	for _, w := range j.Head.Waiting {
		if w.Of == of {
			n++
		}
	}
	return n
}

// EndWaiting removes a waiting run that has become one of the job.
func (j *Job) EndWaiting(id string) {
	j.Head.Waiting = slices.DeleteFunc(j.Head.Waiting, func(w WaitingRun) bool { return w.Run.ID == id })
}
