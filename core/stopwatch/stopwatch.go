// Package stopwatch times what a person watches: a start, a launch, a game
// load, split into phases of which some do not count.
//
// It is a pure state machine over presses with times; where the times come
// from, and who shows them, is others' business.
package stopwatch

import (
	"errors"
	"fmt"
	"math"
)

// State of a watch.
type State string

// States of a watch.
const (
	Ready   State = "ready"
	Running State = "running"
	Stopped State = "stopped"
)

// Phase is a part of what is timed. A phase that does not count is shown and
// left out of the value.
type Phase struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Counts bool   `json:"counts"`
}

// Mark is one press: when, in seconds on the watch's clock, and a key that
// makes a repeated press the same press.
type Mark struct {
	Key string  `json:"key"`
	At  float64 `json:"at"`
}

// Watch is a running or stopped timing. The first mark starts it, each further
// one ends a phase, and the end of the last phase stops it.
type Watch struct {
	Phases []Phase `json:"phases"`
	Marks  []Mark  `json:"marks"`
}

// whole is the phase of a test that has none: all of it.
var whole = Phase{ID: "", Name: "", Counts: true}

// New returns a watch for those phases; with none it times one whole.
func New(phases []Phase) *Watch {
	if len(phases) == 0 {
		phases = []Phase{whole}
	}
	return &Watch{Phases: phases, Marks: []Mark{}}
}

// State tells where the watch is.
func (w *Watch) State() State {
	switch n := len(w.Marks); {
	case n == 0:
		return Ready
	case n <= len(w.Phases):
		return Running
	}
	return Stopped
}

// Errors of a press.
var (
	ErrStopped  = errors.New("the timer has stopped already")
	ErrNotThere = errors.New("there is no press to take back")
)

// Press marks the start, the end of a phase, or the stop. A key that was seen
// before changes nothing. A press earlier than the one before is refused.
func (w *Watch) Press(key string, at float64) error {
	for _, m := range w.Marks {
		if key != "" && m.Key == key {
			return nil
		}
	}
	if math.IsNaN(at) || math.IsInf(at, 0) {
		return fmt.Errorf("the press has no time (%g)", at)
	}
	if w.State() == Stopped {
		return ErrStopped
	}
	if n := len(w.Marks); n > 0 && at < w.Marks[n-1].At {
		return fmt.Errorf("the press is %.3f s before the one it follows", w.Marks[n-1].At-at)
	}
	w.Marks = append(w.Marks, Mark{Key: key, At: at})
	return nil
}

// Undo takes the last press back.
func (w *Watch) Undo() error {
	if len(w.Marks) == 0 {
		return ErrNotThere
	}
	w.Marks = w.Marks[:len(w.Marks)-1]
	return nil
}

// Timing is what a stopped watch gives: seconds by phase, and their sum
// without the phases that do not count.
type Timing struct {
	Value  float64
	Phases map[string]float64
}

// Timing returns the value of a stopped watch; phases without an id are left
// out of the map.
func (w *Watch) Timing() (Timing, error) {
	if w.State() != Stopped {
		return Timing{}, fmt.Errorf("the timer is %s; it has no value yet", w.State())
	}
	t := Timing{Phases: map[string]float64{}}
	for i, p := range w.Phases {
		d := w.Marks[i+1].At - w.Marks[i].At
		if p.ID != "" {
			t.Phases[p.ID] = d
		}
		if p.Counts {
			t.Value += d
		}
	}
	return t, nil
}

// DefaultReaction is the spread of a technician's reaction where it was not
// calibrated, s.
const DefaultReaction = 0.20

// ByHand is the standard uncertainty of a time taken by hand, s: a start and a
// stop, each with the spread of the reaction (JCGM 100, 5.1.2). Zero or less
// means not calibrated.
func ByHand(reaction float64) float64 {
	if reaction <= 0 {
		reaction = DefaultReaction
	}
	return math.Sqrt2 * reaction
}

// Automatic is the standard uncertainty of a reading of that resolution: a
// rectangular distribution (JCGM 100, 4.3.7).
func Automatic(resolution float64) float64 { return resolution / math.Sqrt(12) }

// ByFinishLine is the standard uncertainty of a time started by hand and
// stopped by a page that opened, s.
func ByFinishLine(reaction, roundTrip float64) float64 {
	if reaction <= 0 {
		reaction = DefaultReaction
	}
	return math.Hypot(reaction, roundTrip/2)
}

// ByVideo is the standard uncertainty of a time between two frames, s.
func ByVideo(framesPerSecond float64) float64 {
	return math.Sqrt2 / framesPerSecond / math.Sqrt(12)
}

// ByTyping is the standard uncertainty of a typed figure whose last digit is
// worth lastDigit: half of it ÷ √3, and for times at least 0.5 s.
func ByTyping(lastDigit float64, isTime bool) float64 {
	u := lastDigit / 2 / math.Sqrt(3)
	if isTime {
		u = math.Max(u, 0.5)
	}
	return u
}
