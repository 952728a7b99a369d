package timing

import (
	"context"
	"crypto/rand"
	"fmt"
	"maps"
	"math/big"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/stopwatch"
)

// The finish line is a page with a short address and a one-time word for each
// armed timer. When the customer's browser opens it, the timer stops.

// FinishPath is the path of a page of a finish line.
func FinishPath(word string, page int) string {
	if page <= 1 {
		return "/f/" + word
	}
	return fmt.Sprintf("/f/%s/%d", word, page)
}

// newWord returns a one-time word that is short to type and hard to guess: four syllables, about 25 bits, and
// only a handful are valid at a time.
func newWord() string {
	const consonants, vowels = "bdfgklmnprstvz", "aeiou"
	pick := func(from string) byte {
		n, _ := rand.Int(rand.Reader, big.NewInt(int64(len(from)))) // never fails (crypto/rand)
		return from[n.Int64()]
	}
	var w []byte
	for range 4 {
		w = append(w, pick(consonants), pick(vowels))
	}
	return string(w)
}

// States of a finish line, as its page shows them.
const (
	FinishStopped = "stopped"     // this opening stopped the timer, or an earlier one did
	FinishWaiting = "waiting"     // further pages must open
	FinishEarly   = "not-started" // the timer does not run yet
	FinishUnknown = "unknown"     // no timer waits for this word
)

// Finish is what a finish line's page shows. It contains no other data of the shop.
type Finish struct {
	State   string
	Seconds float64 // from start to the last page
	Opened  int     // pages so far
	Pages   int     // that are wanted
}

// timerOf finds the armed timer of a finish line's word.
func (x *Timers) timerOf(ctx context.Context, word string) (jobID string, err error) {
	if word == "" {
		return "", nil
	}
	all, err := x.store.Timers(ctx)
	if err != nil {
		return "", err
	}
	for id, body := range all {
		var t timer
		if err := json.Unmarshal(body, &t); err == nil && t.Word == strings.ToLower(word) {
			return id, nil
		}
	}
	return "", nil
}

// onLine calls do with the timer of a word, within a change, if there is one. do reports whether it changed the
// timer.
func (x *Timers) onLine(ctx context.Context, word string, do func(t *timer, test *job.Test) (changed bool)) error {
	var v *Timer
	var jobID string
	err := x.jobs.Write(ctx, nil, func(ch *bench.Change) (err error) {
		if jobID, err = x.timerOf(ctx, word); err != nil || jobID == "" {
			return err
		}
		j, t, err := x.loadTimer(ctx, jobID)
		if err != nil || t == nil {
			return err
		}
		test := j.Test(t.Test)
		if test == nil || !do(t, test) {
			return nil
		}
		v, err = x.save(ctx, ch, j, jobID, t)
		return err
	})
	if err == nil && v != nil {
		x.tell(jobID, v)
	}
	return err
}

// FinishLine stores that a page of a finish line was opened, numbered from 1. The last wanted page stops the
// timer. Late, repeated and foreign openings change nothing.
func (x *Timers) FinishLine(ctx context.Context, word string, page int) (*Finish, error) {
	atMS := x.jobs.NowMS()
	f := &Finish{State: FinishUnknown}
	err := x.onLine(ctx, word, func(t *timer, test *job.Test) bool {
		pages := max(1, test.Pages)
		if page < 1 || page > pages {
			return false
		}
		changed := t.Watch.State() == stopwatch.Running && t.open(page, pages, atMS)
		*f = Finish{Pages: pages, Opened: len(t.Opened)}
		switch t.Watch.State() {
		case stopwatch.Ready:
			f.State = FinishEarly
		case stopwatch.Running:
			f.State = FinishWaiting
		default:
			f.State = FinishStopped
			if timing, err := t.Watch.Timing(); err == nil {
				f.Seconds = timing.Value
			}
		}
		return changed
	})
	return f, err
}

// open stores that a page was opened, and stops the timer with the last one.
func (t *timer) open(page, pages int, atMS float64) (changed bool) {
	if _, ok := t.Opened[page]; ok {
		return false
	}
	if t.Opened == nil {
		t.Opened = map[int]float64{}
	}
	t.Opened[page] = atMS
	if len(t.Opened) >= pages {
		if err := t.Watch.Finish("", atMS/1000, 0); err != nil {
			delete(t.Opened, page)
			return false // a press with a later time came first: the finish is late
		}
	}
	return true
}

// maxTripMS is the longest round trip that a late picture counts as.
const maxTripMS = 5000

// FinishSeen stores that the picture of a finish line was requested. The page has made a round trip, which is
// the uncertainty of its time.
func (x *Timers) FinishSeen(ctx context.Context, word string, page int) error {
	atMS := x.jobs.NowMS()
	return x.onLine(ctx, word, func(t *timer, _ *job.Test) bool {
		opened, ok := t.Opened[page]
		if !ok || !t.Watch.Ended || t.Trip > 0 {
			return false
		}
		t.Trip = min(maxTripMS, max(1, atMS-opened))
		return true
	})
}

// pagesInWords says when each of several pages opened.
func (t *timer) pagesInWords() string {
	if len(t.Opened) < 2 || len(t.Watch.Marks) == 0 {
		return ""
	}
	var said []string
	for _, page := range slices.Sorted(maps.Keys(t.Opened)) {
		said = append(said, fmt.Sprintf("page %d after %.1f s", page, t.Opened[page]/1000-t.Watch.Marks[0].At))
	}
	return strings.Join(said, ", ")
}
