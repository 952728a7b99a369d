package bench

import (
	"context"
	"crypto/rand"
	"fmt"
	"maps"
	"math/big"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"

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

// newWord makes a one-time word that is short to type and hard to guess: four
// syllables, some 25 bits, of which a handful is valid at a time.
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

// States of a finish line, as its page says them.
const (
	FinishStopped = "stopped"     // this opening stopped the timer, or an earlier one did
	FinishWaiting = "waiting"     // further pages must open
	FinishEarly   = "not-started" // the timer does not run yet
	FinishUnknown = "unknown"     // no timer waits for this word
)

// Finish is what a finish line says; nothing of the shop's data beyond it.
type Finish struct {
	State   string
	Seconds float64 // from start to the last page
	Opened  int     // pages so far
	Pages   int     // that are wanted
}

// timerOf finds the armed timer of a word.
func (b *Bench) timerOf(ctx context.Context, word string) (jobID string, err error) {
	if word == "" {
		return "", nil
	}
	all, err := b.store.Timers(ctx)
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

// FinishLine notes that a page of a finish line was opened, from 1 on. The last
// page that is wanted stops the timer. Late, doubled and foreign openings change
// nothing.
func (b *Bench) FinishLine(ctx context.Context, word string, page int) (*Finish, error) {
	atMS := b.NowMS()
	b.timing.Lock()
	defer b.timing.Unlock()
	jobID, err := b.timerOf(ctx, word)
	if err != nil || jobID == "" {
		return &Finish{State: FinishUnknown}, err
	}
	j, t, err := b.loadTimer(ctx, jobID)
	if err != nil || t == nil {
		return &Finish{State: FinishUnknown}, err
	}
	test := j.Test(t.Test)
	if test == nil {
		return &Finish{State: FinishUnknown}, nil
	}
	f := &Finish{Pages: max(1, test.Pages)}
	if page < 1 || page > f.Pages {
		return &Finish{State: FinishUnknown}, nil
	}
	if t.Watch.State() == stopwatch.Running {
		if err := b.openPage(ctx, j, jobID, t, test, page, atMS); err != nil {
			return nil, err
		}
	}
	f.Opened = len(t.Opened)
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
	return f, nil
}

// openPage notes a page's opening and stops the timer with the last one.
func (b *Bench) openPage(ctx context.Context, j *job.Job, jobID string, t *timer, test *job.Test, page int, atMS float64) error {
	if _, ok := t.Opened[page]; ok {
		return nil
	}
	if t.Opened == nil {
		t.Opened = map[int]float64{}
	}
	t.Opened[page] = atMS
	if len(t.Opened) >= max(1, test.Pages) {
		if err := t.Watch.Finish("", atMS/1000, 0); err != nil {
			return nil // a press with a later time came first: the finish is late
		}
	}
	_, err := b.saveTimer(ctx, j, jobID, t)
	return err
}

// maxTripMS bounds what a picture's coming late says of the line.
const maxTripMS = 5000

// FinishSeen notes that the picture of a finish line was asked for: the page has
// been there and back, which is what is not known of its time.
func (b *Bench) FinishSeen(ctx context.Context, word string, page int) error {
	atMS := b.NowMS()
	b.timing.Lock()
	defer b.timing.Unlock()
	jobID, err := b.timerOf(ctx, word)
	if err != nil || jobID == "" {
		return err
	}
	j, t, err := b.loadTimer(ctx, jobID)
	if err != nil || t == nil {
		return err
	}
	opened, ok := t.Opened[page]
	if !ok || !t.Watch.Ended || t.Trip > 0 {
		return nil
	}
	t.Trip = min(maxTripMS, max(1, atMS-opened))
	_, err = b.saveTimer(ctx, j, jobID, t)
	return err
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
