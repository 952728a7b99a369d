// Package stopwatch times what a person watches: a start, a launch, a game load, split into
// phases, some of which do not count.
//
// It is a pure state machine over presses with times. Where the times come from, and who shows
// them, is up to the caller.
package stopwatch

import (
	"errors"
	"fmt"
	"math"
	"slices"
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

// Mark is one press: when, in seconds on the watch's clock, how unsure that is
// (the standard uncertainty from the clocks, s), and a key that makes a repeated
// press the same press.
type Mark struct {
	Key string  `json:"key"`
	At  float64 `json:"at"`
	U   float64 `json:"u,omitzero"`
}

// Hold is a stretch of the human's part (typing, choosing a user), which is left
// out of whatever phase it falls into. To is nil while it lasts.
type Hold struct {
	Key     string   `json:"key"`
	From    float64  `json:"from"`
	To      *float64 `json:"to"`
	Release string   `json:"release,omitzero"` // the key that ended it
}

// Watch is a running or stopped timing. The first mark starts it, each further
// one ends a phase, and the end of the last phase stops it, or a finish.
type Watch struct {
	Phases []Phase `json:"phases"`
	Marks  []Mark  `json:"marks"`
	Holds  []Hold  `json:"holds,omitempty"`
	// Ended means that the last mark was a finish, which stops the watch whatever
	// phase it was in.
	Ended bool `json:"ended,omitzero"`
	// Done are the kinds of events in their order, so that the last can be undone.
	Done []string `json:"done,omitempty"`
	// Undone are the keys of what was undone, so that it does not come again
	// with a repeat that was on its way.
	Undone []string `json:"undone,omitempty"`
}

// Kinds of events.
const (
	pressed  = "press"
	held     = "hold"
	released = "release"
	finished = "finish"
)

// whole is the phase of a test that has none: all of it.
var whole = Phase{ID: "", Name: "", Counts: true}

// New returns a watch for those phases; with none it times one whole.
func New(phases []Phase) *Watch {
	if len(phases) == 0 {
		phases = []Phase{whole}
	}
	return &Watch{Phases: phases, Marks: []Mark{}}
}

// State reports where the watch is.
func (w *Watch) State() State {
	switch n := len(w.Marks); {
	case n == 0:
		return Ready
	case n <= len(w.Phases) && !w.Ended:
		return Running
	}
	return Stopped
}

// Errors of an event.
var (
	ErrStopped  = errors.New("the timer has stopped already")
	ErrNotThere = errors.New("there is no press to take back")
	ErrNotYet   = errors.New("the timer does not run yet")
)

// Keys are those of all events that were taken, also of what was undone.
func (w *Watch) Keys() []string {
	keys := slices.Clone(w.Undone)
	for _, m := range w.Marks {
		keys = append(keys, m.Key)
	}
	for _, h := range w.Holds {
		keys = append(keys, h.Key, h.Release)
	}
	return slices.DeleteFunc(keys, func(k string) bool { return k == "" })
}

// known reports whether an event's key was seen before.
func (w *Watch) known(key string) bool { return key != "" && slices.Contains(w.Keys(), key) }

// Press marks the start, the end of a phase, or the stop; u is the standard
// uncertainty of its time, s. A key that was seen before changes nothing. A press
// earlier than the one before is refused.
func (w *Watch) Press(key string, at, u float64) error {
	if w.known(key) {
		return nil
	}
	if err := checkTime(at, u); err != nil {
		return err
	}
	if w.State() == Stopped {
		return ErrStopped
	}
	if n := len(w.Marks); n > 0 && at < w.Marks[n-1].At {
		return fmt.Errorf("the press is %.3f s before the one it follows", w.Marks[n-1].At-at)
	}
	w.Marks = append(w.Marks, Mark{Key: key, At: at, U: u})
	w.Done = append(w.Done, pressed)
	w.close()
	return nil
}

// Finish stops a running watch in whatever phase it is, as a finish line does.
func (w *Watch) Finish(key string, at, u float64) error {
	if w.known(key) {
		return nil
	}
	if w.State() == Ready {
		return ErrNotYet
	}
	if err := w.Press(key, at, u); err != nil {
		return err
	}
	w.Ended = true
	w.Done[len(w.Done)-1] = finished
	w.close()
	return nil
}

// close ends a hold that still lasts when the watch stops.
func (w *Watch) close() {
	if n := len(w.Holds); n > 0 && w.Holds[n-1].To == nil && w.State() == Stopped {
		at := max(w.Holds[n-1].From, w.Marks[len(w.Marks)-1].At)
		w.Holds[n-1].To = &at
	}
}

// Hold begins the human's part, or ends it where it has begun.
func (w *Watch) Hold(key string, at float64) error {
	if w.known(key) {
		return nil
	}
	if err := checkTime(at, 0); err != nil {
		return err
	}
	switch w.State() {
	case Ready:
		return ErrNotYet
	case Stopped:
		return ErrStopped
	case Running:
	}
	n := len(w.Holds)
	if n > 0 && w.Holds[n-1].To == nil {
		if at < w.Holds[n-1].From {
			return fmt.Errorf("the hold would end %.3f s before it began", w.Holds[n-1].From-at)
		}
		w.Holds[n-1].To, w.Holds[n-1].Release = &at, key
		w.Done = append(w.Done, released)
		return nil
	}
	if at < w.Marks[0].At {
		return errors.New("the hold would begin before the start")
	}
	if n > 0 && at < *w.Holds[n-1].To {
		return errors.New("the hold would begin within the one before")
	}
	w.Holds = append(w.Holds, Hold{Key: key, From: at})
	w.Done = append(w.Done, held)
	return nil
}

// Paused reports whether a hold lasts.
func (w *Watch) Paused() bool { return len(w.Holds) > 0 && w.Holds[len(w.Holds)-1].To == nil }

func checkTime(at, u float64) error {
	if math.IsNaN(at) || math.IsInf(at, 0) {
		return fmt.Errorf("the press has no time (%g)", at)
	}
	if !(u >= 0) || math.IsInf(u, 0) {
		return fmt.Errorf("the press has no uncertainty (%g)", u)
	}
	return nil
}

// Undo takes the last event back: a press, or the beginning or end of a hold. A key that was seen
// before changes nothing.
func (w *Watch) Undo(key string) error {
	if w.known(key) {
		return nil
	}
	if err := w.undo(); err != nil {
		return err
	}
	w.forget(key)
	return nil
}

func (w *Watch) undo() error {
	last := pressed // a watch of an earlier version has presses alone
	if n := len(w.Done); n > 0 {
		last, w.Done = w.Done[n-1], w.Done[:n-1]
	}
	switch n := len(w.Marks); {
	case last == held:
		k := len(w.Holds) - 1
		w.forget(w.Holds[k].Key)
		w.Holds = w.Holds[:k]
	case last == released:
		h := &w.Holds[len(w.Holds)-1]
		w.forget(h.Release)
		h.To, h.Release = nil, ""
	case n == 0:
		return ErrNotThere
	default:
		stopped := w.State() == Stopped
		w.forget(w.Marks[n-1].Key)
		w.Marks, w.Ended = w.Marks[:n-1], false
		// A hold that just the stop had ended lasts again.
		if k := len(w.Holds); stopped && k > 0 && w.Holds[k-1].Release == "" {
			w.Holds[k-1].To = nil
		}
	}
	return nil
}

func (w *Watch) forget(key string) {
	if key != "" {
		w.Undone = append(w.Undone, key)
	}
}

// Timing is what a stopped watch gives: seconds by phase without what was held
// in them, their sum without the phases that do not count, and what was held.
type Timing struct {
	Value  float64
	Phases map[string]float64
	Held   float64
	// U is the standard uncertainty from the clocks of the presses that enter the value, s.
	U float64
}

// Timing returns the value of a stopped watch; phases without an id are left
// out of the map, and so are those that a finish came before.
func (w *Watch) Timing() (Timing, error) {
	if w.State() != Stopped {
		return Timing{}, fmt.Errorf("the timer is %s; it has no value yet", w.State())
	}
	t := Timing{Phases: map[string]float64{}}
	phases := w.Phases[:min(len(w.Phases), len(w.Marks)-1)]
	for i, p := range phases {
		from, to := w.Marks[i].At, w.Marks[i+1].At
		within := w.heldWithin(from, to)
		d := max(0, to-from-within)
		t.Held += within
		if p.ID != "" {
			t.Phases[p.ID] = d
		}
		if p.Counts {
			t.Value += d
		}
	}
	for i, enters := range Entering(counting(phases)) {
		if enters {
			t.U = math.Hypot(t.U, w.Marks[i].U)
		}
	}
	return t, nil
}

// heldWithin is how much of a stretch was held, s.
func (w *Watch) heldWithin(from, to float64) float64 {
	sum := 0.0
	for _, h := range w.Holds {
		if h.To != nil {
			sum += max(0, min(*h.To, to)-max(h.From, from))
		}
	}
	return sum
}

// DefaultReaction is the spread of a technician's reaction where it was not
// calibrated, s.
const DefaultReaction = 0.20

// Bounds of a calibration: fewer presses say nothing of a spread, and a press that
// comes sooner or later than these was no reaction to the light, s.
const (
	MinReactions = 8
	tooSoon      = 0.08
	tooLate      = 1.5
)

// Reaction works a technician's own reaction out from the times between light
// and press, s: the mean, and the spread (sample standard deviation). Presses that
// were no reactions are left out; with too few left there is none.
func Reaction(times []float64) (mean, spread float64, n int, err error) {
	sum, squares := 0.0, 0.0
	for _, t := range times {
		if t >= tooSoon && t <= tooLate {
			sum += t
			n++
		}
	}
	if n < MinReactions {
		return 0, 0, n, fmt.Errorf("only %d presses followed the light; %d are needed", n, MinReactions)
	}
	mean = sum / float64(n)
	for _, t := range times {
		if t >= tooSoon && t <= tooLate {
			squares += (t - mean) * (t - mean)
		}
	}
	return mean, math.Sqrt(squares / float64(n-1)), n, nil
}

// Entering tells of each press about phases, one more than those, whether it enters a
// value that is the sum of the phases that count: the start and the stop do, and so do the
// two about each phase in the middle that does not count.
func Entering(counts []bool) []bool {
	enters, before := make([]bool, len(counts)+1), false
	for i, c := range counts {
		enters[i], before = c != before, c
	}
	enters[len(counts)] = before
	return enters
}

// Presses is how many presses enter a value that is the sum of the phases that count;
// each hold in it adds two.
func Presses(counts []bool, holds int) int {
	n := 2 * holds
	for _, enters := range Entering(counts) {
		if enters {
			n++
		}
	}
	return n
}

func counting(phases []Phase) []bool {
	counts := make([]bool, len(phases))
	for i, p := range phases {
		counts[i] = p.Counts
	}
	return counts
}

// Presses is how many presses enter the watch's value; of one that has not stopped, as
// many as will when it goes through its phases.
func (w *Watch) Presses() int {
	phases := w.Phases
	if w.State() == Stopped {
		phases = phases[:min(len(phases), len(w.Marks)-1)]
	}
	counts, holds := counting(phases), 0
	for i, p := range phases {
		if !p.Counts || i+1 >= len(w.Marks) {
			continue
		}
		for _, h := range w.Holds {
			if h.To != nil && h.From < w.Marks[i+1].At && *h.To > w.Marks[i].At {
				holds++
			}
		}
	}
	return Presses(counts, holds)
}

// ByHand is the standard uncertainty of a time taken by hand, s: so many presses
// enter it, each with the spread of the reaction (JCGM 100, 5.1.2). A reaction of zero
// or less means not calibrated.
func ByHand(reaction float64, presses int) float64 {
	if reaction <= 0 {
		reaction = DefaultReaction
	}
	return math.Sqrt(float64(presses)) * reaction
}

// Automatic is the standard uncertainty of a reading of that resolution: a
// rectangular distribution (JCGM 100, 4.3.7).
func Automatic(resolution float64) float64 { return resolution / math.Sqrt(12) }

// ByFinishLine is the standard uncertainty of a time of so many presses, s, of which a
// page that opened was the last.
func ByFinishLine(reaction float64, presses int, roundTrip float64) float64 {
	return math.Hypot(ByHand(reaction, max(0, presses-1)), roundTrip/2)
}

// ByVideo is the standard uncertainty of a time between frames, s: something became
// visible at some time within the length of each frame that enters it. With two of one
// rate that is √2 ÷ rate ÷ √12.
func ByVideo(frames ...float64) float64 {
	squares := 0.0
	for _, f := range frames {
		squares += f * f
	}
	return math.Sqrt(squares / 12)
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
