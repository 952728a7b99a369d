package job

import (
	"time"

	"github.com/go-json-experiment/json/jsontext"
)

// Task is timed work of the visit.
type Task struct {
	ID   string   `json:"id"`
	What TaskKind `json:"what"`
	// Words say how it is done, or what it is.
	Words string     `json:"words,omitzero"`
	From  TaskSource `json:"from,omitzero"`
	// Bytes is how much it moves; 0 where that is not known.
	Bytes     int64     `json:"bytes,omitzero"`
	Stretches []Stretch `json:"stretches"`

	Unknown jsontext.Value `json:",embed"`
}

// Stretch is a stretch of time of a task. One that still runs has no end.
type Stretch struct {
	From time.Time   `json:"from"`
	To   time.Time   `json:"to,omitzero"`
	Kind StretchKind `json:"kind"` // hands-on waiting
	// Broke is why it was interrupted; "" if it wasn't.
	Broke string `json:"broke,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// CheckedByHand is the result of a check by hand after the swap.
type CheckedByHand struct {
	Check string     `json:"check"`
	State CheckState `json:"state"` // fine wrong
	At    time.Time  `json:"at"`
	By    string     `json:"by,omitzero"`
	// Fix is what fixed it.
	Fix string `json:"fix,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Running returns the stretch whose clock runs, or nil.
func (t *Task) Running() *Stretch {
	if n := len(t.Stretches); n > 0 && t.Stretches[n-1].To.IsZero() {
		return &t.Stretches[n-1]
	}
	return nil
}

// StopClocks stops the clocks of all tasks: a forgotten clock doesn't run forever.
func (j *Job) StopClocks(at time.Time) {
	for i := range j.Head.Tasks {
		if s := j.Head.Tasks[i].Running(); s != nil {
			s.To = at
		}
	}
}

// Task returns the task with that id, or nil.
func (j *Job) Task(id string) *Task {
	return find(j.Head.Tasks, func(t *Task) bool { return t.ID == id })
}
