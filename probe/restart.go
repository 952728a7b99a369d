package probe

import (
	"context"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/core/job"
	"nowthen/core/order"
	"nowthen/core/words"
	"nowthen/durable"
	"nowthen/machine"
	"nowthen/machine/startup"
)

// begun is when this program was started; the time until its first sign is the sign's delay.
var begun = time.Now()

// restartFile stores the timing over a restart of the computer.
const restartFile = "restart.json"

// restarting is what restartFile holds.
type restarting struct {
	Order   string        `json:"order"`
	Sitting string        `json:"sitting"`
	Test    string        `json:"test"`
	Warmth  job.Warmth    `json:"warmth,omitzero"`
	Start   job.StartKind `json:"start_kind,omitzero"`
	Step    int           `json:"step"`
	// Boot identifies the start of the system during which it was written.
	Boot string `json:"boot"`
	// Last is the bench's answer to the last sign, RoundTrip how long that took, s; nil where none was given yet.
	Last      *order.Clock    `json:"last,omitzero"`
	RoundTrip float64         `json:"round_trip_s,omitzero"`
	Entry     startup.Entry   `json:"entry"`
	Seen      *job.Conditions `json:"conditions,omitzero"`
	// Spent: it is over, and its start-up entry is removed. No restart is repeated automatically, whatever
	// happened to its time: a computer must not restart forever.
	Spent bool `json:"spent,omitzero"`
}

// Bounds of a restart.
const (
	// signing is how long a sign may take: one that takes longer tells no time.
	signing = 5 * time.Second
	// goingDown is how long a computer that was told to restart may stay up.
	goingDown = 15 * time.Minute
	// byHand is how long a technician has to restart it.
	byHand = time.Hour
	// longestRestart is beyond what a restart takes: the computer was off in the meantime.
	longestRestart = 2 * time.Hour
)

// errStays means that a computer didn't restart.
var errStays = errors.New("the computer didn't restart")

// Restarter is a computer that can be restarted and that identifies its current start.
type Restarter interface {
	// Boot names the start of the system that it runs since.
	Boot() (string, error)
	// Watch is what puts the probe into the system's start; command is how it continues.
	Watch(command []string) (startup.Entry, error)
	// Restart asks the system to restart.
	Restart(ctx context.Context) error
}

// restart times the next restart of an order: it puts the probe into the system's start, gives the
// bench its last sign and
// restarts the computer, or waits for the technician to. The time is known once the probe has come
// back; see [Joined.returned].
// ctx ends with the probe, within with the order.
func (j *Joined) restart(ctx, within context.Context, o *order.Order) (err error) {
	steps := o.Steps()
	if len(steps) == 0 {
		return nil
	}
	if j.computer.Simulated() != "" {
		return j.simulatedRestart(within, o)
	}
	computer, can := j.computer.(Restarter)
	if !can || len(j.o.Command) == 0 {
		return errors.New("the probe can't resume after a restart here; use the timer or a video")
	}
	if before, err := j.restarting(); err == nil && before != nil && before.Order == o.ID && before.Step == o.Skip {
		return errors.New("the restart gave no time; start it again from the " +
			"job's page")
	}
	k := restarting{Order: o.ID, Sitting: o.Sitting, Test: steps[0].Test.ID, Warmth: steps[0].Test.Warmth,
		Start: steps[0].Test.StartKind, Step: o.Skip}
	conditions, unseen, err := j.settled(within, o, 0)
	if err != nil {
		return err
	}
	if unseen == nil {
		k.Seen = &conditions
	}
	if k.Boot, err = computer.Boot(); err != nil {
		return fmt.Errorf("the system's start time isn't known: %w", err)
	}
	if k.Entry, err = computer.Watch(j.o.Command); err != nil {
		return err
	}
	// It is noted before it is made: a probe that is killed in between takes it out at its next start.
	if err := j.keepRestart(&k); err != nil {
		return err
	}
	down := false
	defer func() {
		if !down {
			err = errors.Join(err, j.forgetRestart(&k))
		}
	}()
	if err := startup.Put(k.Entry); err != nil {
		return err
	}
	j.say("%s, restart %d of %d. The probe is in the start-up programs for this one start: %s.", steps[0].Test.Name,
		steps[0].Run, steps[0].Runs, k.Entry.Place)
	if o.ByHand {
		_ = j.bench.Say(within, "progress", order.Progress{Order: o.ID, Step: o.Skip, Waiting: words.RestartNow})
		j.say("Restart the computer now.")
		return j.untilRestarted(ctx, within, &k, byHand, &down)
	}
	if err := j.lastSign(within, &k); err != nil {
		return err
	}
	if err := computer.Restart(within); err != nil {
		return err
	}
	return j.untilRestarted(ctx, within, &k, goingDown, &down)
}

// untilRestarted waits for the end of this program, by which the system says that it goes down.
// Where a technician restarts
// it, the last sign is given then.
func (j *Joined) untilRestarted(ctx, within context.Context, k *restarting, longest time.Duration, down *bool) error {
	select {
	case <-time.After(longest):
		return errStays
	case <-within.Done():
	}
	if ctx.Err() == nil {
		return within.Err() // the order was stopped
	}
	if k.Last == nil && j.o.GoesDown != nil && !j.o.GoesDown() {
		return ctx.Err() // a person has ended the program: what restarts later is not what was to be timed
	}
	*down = true
	if k.Last == nil {
		return j.lastSign(context.WithoutCancel(ctx), k)
	}
	return nil
}

// lastSign sends the bench the last sign before the restart, and stores its clock.
func (j *Joined) lastSign(ctx context.Context, k *restarting) error {
	clock, took, err := j.sign(ctx, order.Sign{Order: k.Order, Step: k.Step, Leaving: true})
	if err != nil {
		return fmt.Errorf("the bench, which times the restart, doesn't answer: %w", err)
	}
	k.Last, k.RoundTrip = clock, took
	return j.keepRestart(k)
}

// sign sends the bench a sign, and returns its clock and the round trip, s.
func (j *Joined) sign(ctx context.Context, s order.Sign) (*order.Clock, float64, error) {
	ctx, stop := context.WithTimeout(ctx, signing)
	defer stop()
	at := time.Now()
	clock, err := j.bench.Sign(ctx, s)
	return clock, time.Since(at).Seconds(), err
}

// returned ends what was timed when the computer went down: it is the first that a probe does when
// it is started. A probe that
// was started again without a restart, or long after it, takes out what it had put into the
// system's start, and says so.
func (j *Joined) returned(ctx context.Context) error {
	k, err := j.restarting()
	if err != nil {
		j.say("%v; nothing was timed.", err)
		return os.Remove(filepath.Join(j.dir, restartFile))
	}
	if k == nil || k.Spent {
		return nil
	}
	var clock *order.Clock
	var took, late float64
	if err := j.again(ctx, func() (err error) {
		clock, took, err = j.sign(ctx, order.Sign{Order: k.Order, Step: k.Step})
		late = time.Since(begun).Seconds() - took/2
		return err
	}); err != nil {
		var no *RefusedError
		if !errors.As(err, &no) {
			return err
		}
		j.say("The bench refused the sign of the restart: %v Nothing was timed.", err)
		return j.forgetRestart(k) // or no start of the probe would come further than this
	}
	if err := j.forgetRestart(k); err != nil {
		j.say("%v", err)
	}
	computer, can := j.computer.(Restarter)
	if !can || k.Last == nil {
		return nil
	}
	boot, err := computer.Boot()
	switch {
	case err != nil || machine.SameBoot(boot, k.Boot):
		j.say("The computer wasn't restarted, so nothing was timed.")
		return nil
	case clock.Since(*k.Last) > longestRestart.Seconds():
		j.say("The computer came back after %s. That wasn't a restart, so nothing was timed.",
			time.Duration(clock.Since(*k.Last)*float64(time.Second)).Round(time.Minute))
		return nil
	}
	value, u := timedBySigns(clock.Since(*k.Last), k.RoundTrip, took, late)
	run := job.Run{Test: k.Test, Value: value, U: &u, Method: job.RestartWatch, Warmth: k.Warmth, StartKind: k.Start,
		Conditions: k.Seen,
		Note:       words.FirstSign(k.Entry.BeforeSignIn)}
	j.say("The restart took %.1f s to the first sign.", value)
	return j.finished(&order.Order{ID: k.Order, Sitting: k.Sitting}, k.Step, &run)
}

// timedBySigns is how long a restart took between two of a bench's answers, and its standard
// uncertainty, s: the first sign
// was late by the time that the probe took to give it, and each answer's moment is known to half of what it took
// (u = √(late² + (round trip ÷ 2)²), the longer of the two round trips).
func timedBySigns(between, tookBefore, tookAfter, late float64) (value, u float64) {
	return math.Round(between*1000) / 1000, math.Hypot(late, max(tookBefore, tookAfter)/2)
}

// restarting is what is timed over a restart, or nil.
func (j *Joined) restarting() (*restarting, error) {
	text, err := os.ReadFile(filepath.Join(j.dir, restartFile))
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	k := &restarting{}
	if err := json.Unmarshal(text, k); err != nil {
		return nil, fmt.Errorf("%s: %w", filepath.Join(j.dir, restartFile), err)
	}
	return k, nil
}

func (j *Joined) keepRestart(k *restarting) error {
	text, err := json.Marshal(k)
	if err != nil {
		return err
	}
	if err := durable.Write(filepath.Join(j.dir, restartFile), text); err != nil {
		return fmt.Errorf("storing the restart: %w", err)
	}
	return nil
}

// forgetRestart removes the start-up entry, and then stores that the restart is over.
func (j *Joined) forgetRestart(k *restarting) error {
	if err := startup.Remove(k.Entry); err != nil {
		return err
	}
	k.Spent = true
	return j.keepRestart(k)
}

// simulatedRestart lets a simulated computer restart: it goes away, and comes back when its start has passed.
func (j *Joined) simulatedRestart(ctx context.Context, o *order.Order) error {
	steps := o.Steps()
	restart, err := j.computer.Launcher(steps[0].Test, o.Seed+uint64(max(o.Skip, 0)))
	if err != nil {
		return err
	}
	for i, step := range steps {
		conditions, unseen, err := j.settled(ctx, o, i)
		if err != nil {
			return err
		}
		j.say("%s, restart %d of %d: the computer is away for a moment.", step.Test.Name, step.Run, step.Runs)
		if _, _, err := j.sign(ctx, order.Sign{Order: o.ID, Step: o.Skip + i, Leaving: true}); err != nil {
			return err
		}
		run, err := restart(ctx)
		if err != nil {
			return err
		}
		back := j.leaves()
		j.hold(ctx, time.Duration(run.Value*float64(time.Second)))
		back()
		if ctx.Err() != nil {
			return ctx.Err() // what was cut off was no restart
		}
		run.Method, run.StartKind = job.RestartWatch, step.Test.StartKind
		if unseen == nil {
			run.Conditions = &conditions
		}
		if err := j.finished(o, i, run); err != nil {
			return err
		}
		if _, _, err := j.sign(ctx, order.Sign{Order: o.ID, Step: o.Skip + i}); err != nil {
			return err
		}
	}
	return nil
}

// leaves has a simulated computer ask its bench for nothing until the returned function is called.
func (j *Joined) leaves() (back func()) {
	home := make(chan struct{})
	j.mu.Lock()
	j.home = home
	unask := j.unask
	j.mu.Unlock()
	if unask != nil {
		unask()
	}
	return func() {
		j.mu.Lock()
		j.home = nil
		j.mu.Unlock()
		close(home)
	}
}
