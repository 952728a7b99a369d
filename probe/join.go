package probe

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/gofrs/flock"
	"github.com/oklog/ulid/v2"

	"nowthen/core/drivetest"
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/order"
	"nowthen/core/round"
	"nowthen/core/words"
	"nowthen/durable"
	"nowthen/machine/startup"
)

// Joined is a probe that has joined a job of a bench.
type Joined struct {
	bench    *Bench
	computer Computer
	outbox   *Outbox
	lock     *flock.Flock // while it runs: two would measure the same twice
	dir      string
	o        Options
	wake     chan struct{} // something is in the outbox

	mu    sync.Mutex
	doing string             // the order that is worked on, or ""
	stop  context.CancelFunc // ends it
	ended chan struct{}      // closed when it has
	// weighing stops the search for large folders; nil if none is running.
	weighing context.CancelFunc
	// unask cancels the current request for work; home is closed when a simulated computer that is away is back.
	unask context.CancelFunc
	home  chan struct{}
	// permitted are the command lines that the person has allowed for this job.
	permitted map[string]bool
}

// Options configure a joined probe.
type Options struct {
	// Say prints a line for the person at the computer.
	Say func(line string)
	// Pace is how many simulated seconds pass in a real one; 0 is as fast as possible.
	Pace float64
	// Away is how long a simulated computer is away when its drive is swapped.
	Away time.Duration
	// GoesDown reports, when the program is being ended, whether the system is shutting down, as opposed to a
	// person closing it; nil means always.
	GoesDown func() bool
	// Permit asks the person at the computer whether a program may be launched, by its full command line; the
	// error says why not. nil launches none on a real computer.
	Permit func(ctx context.Context, commandLine string) error
	// Folders are those that the person before the computer has chosen: tests may lie in them, beside the places
	// where drives are mounted.
	Folders []string
	// Command is how the probe continues after a restart of the computer: its program's full path,
	// and its arguments. Without
	// one no restart is timed.
	Command []string
}

// joined is what a probe stores on disk about its job.
type joined struct {
	Address string `json:"address"`
	Token   string `json:"token"`
	Job     string `json:"job"`
	// Machine is the computer that joined.
	Machine string `json:"machine,omitzero"`
	// Keyed: the address contains the fingerprint of the bench's key. Earlier versions used its certificate's, or none.
	Keyed bool `json:"keyed,omitzero"`
	// Memory is what a simulated computer remembers.
	Memory string `json:"memory,omitzero"`
}

// rememberer is a simulated computer that keeps its state over a restart of the probe.
type rememberer interface {
	Memory() string
	Remember(memory string)
}

// Files of a joined probe in its folder.
const (
	joinedFile = "joined.json"
	outboxDir  = "unconfirmed"
	readMe     = "read-me.txt"
	lockFile   = "running.lock"
)

// ErrRuns means that a probe is already running on this computer.
var ErrRuns = errors.New("a probe already runs on this computer; look for its window, or end it first")

// ErrNotJoined means that no bench is known to a probe that was started without a code.
var ErrNotJoined = errors.New("this computer hasn't joined a job yet; use the line on the job's page: " +
	"nowthen-probe join ADDRESS CODE")

// Join joins a job of the bench at an address with a code. dir is the folder for unconfirmed results and the
// job's token.
func Join(ctx context.Context, computer Computer, address, code, dir string, o Options) (*Joined, error) {
	b, err := NewBench(address, "")
	if err != nil {
		return nil, err
	}
	j, err := open(computer, b, dir, o)
	if err != nil {
		return nil, err
	}
	h := j.hello(ctx)
	h.Code = code
	w, err := b.Join(ctx, h)
	if err == nil {
		err = j.enter(w)
	}
	if err != nil {
		return nil, errors.Join(err, j.lock.Close())
	}
	return j, nil
}

// enter notes on disk that it has joined a job.
func (j *Joined) enter(w *order.Welcome) error {
	before := ""
	if k, err := readJoined(j.dir); err == nil {
		before = k.Job
	}
	if err := j.outbox.changeJob(before, w.Job); err != nil {
		return err
	}
	if err := j.keep(w.Job); err != nil {
		return err
	}
	if n := j.outbox.Len(); n > 0 {
		j.say("Sending %d earlier messages.", n)
	}
	j.say("Joined job %s at %s.", w.Job, j.bench.base)
	return nil
}

// Again continues with the job that this computer had joined.
func Again(computer Computer, dir string, o Options) (*Joined, error) {
	k, err := readJoined(dir)
	if err != nil {
		return nil, err
	}
	if k.Machine != computer.Identity() {
		return nil, fmt.Errorf("another computer joined job %s from here; use the line that the job's "+
			"page shows", k.Job)
	}
	b, err := NewBench(k.Address, k.Token)
	if !k.Keyed && (err != nil || strings.HasPrefix(k.Address, "https:")) {
		return nil, fmt.Errorf("%w (job %s); the results are kept in %s", ErrJoinAgain, k.Job,
			filepath.Join(dir, outboxDir))
	}
	if err != nil {
		return nil, err
	}
	return resume(computer, b, k, dir, o)
}

// resume continues at a bench with the job that this computer had joined there.
func resume(computer Computer, b *Bench, k joined, dir string, o Options) (*Joined, error) {
	if r, ok := computer.(rememberer); ok {
		r.Remember(k.Memory)
	}
	j, err := open(computer, b, dir, o)
	if err != nil {
		return nil, err
	}
	if err := j.outbox.changeJob(k.Job, k.Job); err != nil {
		return nil, errors.Join(err, j.lock.Close())
	}
	j.say("Back in job %s at %s.", k.Job, b.base)
	return j, nil
}

// readJoined reads which job this computer has joined; [ErrNotJoined] if none.
func readJoined(dir string) (k joined, err error) {
	text, err := os.ReadFile(filepath.Join(dir, joinedFile))
	if errors.Is(err, fs.ErrNotExist) {
		return k, ErrNotJoined
	}
	if err != nil {
		return k, err
	}
	if err := json.Unmarshal(text, &k); err != nil {
		return k, fmt.Errorf("%s: %w", filepath.Join(dir, joinedFile), err)
	}
	return k, nil
}

func open(computer Computer, b *Bench, dir string, o Options) (*Joined, error) {
	box, err := OpenOutbox(filepath.Join(dir, outboxDir))
	if err != nil {
		return nil, err
	}
	lock := flock.New(filepath.Join(dir, lockFile), flock.SetPermissions(0o600))
	if alone, err := lock.TryLock(); err != nil {
		return nil, fmt.Errorf("checking for another probe: %w", err)
	} else if !alone {
		return nil, ErrRuns
	}
	if o.Say == nil {
		o.Say = func(string) {}
	}
	return &Joined{bench: b, computer: computer, outbox: box, lock: lock, dir: dir, o: o, wake: make(chan struct{}, 1)},
		nil
}

// say prints a line for the person at the computer. Text from the bench can neither move the cursor nor reverse
// the writing direction.
func (j *Joined) say(format string, args ...any) { j.o.Say(Printable(fmt.Sprintf(format, args...))) }

// hello is the probe's current hello.
func (j *Joined) hello(ctx context.Context) order.Hello {
	return order.Hello{Protocol: order.Protocol, Engine: drivetest.EngineVersion,
		System:  runtime.GOOS + "/" + runtime.GOARCH,
		Machine: j.computer.Identity(), Simulated: j.computer.Simulated(), Now: time.Now(), Facts: *j.computer.Facts(ctx)}
}

// keep stores on disk that it has joined.
func (j *Joined) keep(job string) error {
	k := joined{Address: j.bench.Address, Token: j.bench.Token, Job: job, Machine: j.computer.Identity(), Keyed: true}
	if r, ok := j.computer.(rememberer); ok {
		k.Memory = r.Memory()
	}
	text, err := json.Marshal(k)
	if err != nil {
		return err
	}
	note := "Now Then keeps here what this computer measured until the bench has confirmed it.\nThe probe removes " +
		"the folder when it is told to leave.\n"
	path := filepath.Join(j.dir, joinedFile)
	if err := os.WriteFile(filepath.Join(j.dir, readMe), []byte(note), 0o600); err != nil {
		return fmt.Errorf("storing that this computer has joined: %w", err)
	}
	return durable.Write(path, text)
}

// remove removes everything the probe created, except what the bench refused.
func (j *Joined) remove() error {
	var errs []error
	if k, err := j.restarting(); err == nil && k != nil {
		errs = append(errs, startup.Remove(k.Entry))
	}
	errs = append(errs, j.unlisted())
	for _, name := range []string{joinedFile, readMe, restartFile} {
		if err := os.Remove(filepath.Join(j.dir, name)); !errors.Is(err, fs.ErrNotExist) {
			errs = append(errs, err)
		}
	}
	_ = j.lock.Close()
	_ = os.Remove(filepath.Join(j.dir, lockFile))
	_ = os.Remove(filepath.Join(j.dir, outboxDir)) // stays where something is in it
	_ = os.Remove(j.dir)
	return errors.Join(errs...)
}

// Bounds of how long it waits before it tries again.
const (
	soonest = 100 * time.Millisecond
	latest  = 10 * time.Second
)

// again retries something until it succeeds, is refused, or the context ends. It prints once that the bench
// can't be reached, and once that it is back.
func (j *Joined) again(ctx context.Context, do func() error) error {
	wait, told := soonest, false
	for {
		err := do()
		var no *RefusedError
		if err == nil || errors.Is(err, ErrLetGo) || errors.Is(err, ErrJoinAgain) || errors.As(err, &no) ||
			ctx.Err() != nil {
			if told && err == nil {
				j.say("The bench is back.")
			}
			return errors.Join(err, ctx.Err())
		}
		if wait > time.Second && !told {
			told = true
			j.say("Can't reach the bench. Results are kept here until it is back. (%v)", err)
		}
		select {
		case <-time.After(wait/2 + rand.N(wait)):
		case <-ctx.Done():
			return ctx.Err()
		}
		wait = min(2*wait, latest)
	}
}

// Run carries out orders until the bench disconnects the probe, which is no error, or the context ends.
// Unconfirmed runs stay on disk, and are sent at the next start.
func (j *Joined) Run(ctx context.Context) error {
	defer j.lock.Close() // a second closing closes nothing
	if err := j.returned(ctx); err != nil {
		return j.over(err)
	}
	if err := j.greet(ctx); err != nil {
		return j.over(err)
	}
	var sending sync.WaitGroup
	defer sending.Wait()
	defer j.halt() // what it measures ends before
	within, cancel := context.WithCancel(ctx)
	defer cancel()
	sending.Go(func() { j.sendMeanwhile(within) })
	for {
		doing := j.current()
		if doing == "" { // the bench must know of all before it says what is to be done
			if err := j.again(ctx, func() error { return j.outbox.Send(ctx, j.bench, j.refused) }); err != nil {
				return j.over(err)
			}
		}
		asking, unask := context.WithCancel(ctx)
		j.mu.Lock()
		home := j.home
		j.unask = unask
		j.mu.Unlock()
		if home != nil {
			unask()
			select {
			case <-home:
			case <-ctx.Done():
			}
			continue
		}
		var o *order.Order
		asked := time.Now()
		err := j.again(asking, func() (err error) { o, err = j.bench.Work(asking, doing); return err })
		left := asking.Err() != nil && ctx.Err() == nil
		unask()
		if left {
			continue // it was told while it went away: it is told again
		}
		if err != nil {
			return j.over(err)
		}
		if o == nil {
			// The request is a long poll; a bench that answers at once isn't asked all the time.
			select {
			case <-time.After(time.Second - time.Since(asked)):
			case <-ctx.Done():
			}
			continue
		}
		gone, err := j.do(ctx, o)
		if err != nil || gone {
			return j.over(err)
		}
	}
}

// over returns why the probe ends.
func (j *Joined) over(err error) error {
	if errors.Is(err, ErrLetGo) {
		j.halt()
		if n := j.outbox.Len(); n > 0 {
			return fmt.Errorf("%w; unsent results are in %s (%d messages)", err,
				filepath.Join(j.dir, outboxDir), n)
		}
		j.say("The bench has disconnected this computer.")
		return j.remove()
	}
	if errors.Is(err, ErrJoinAgain) {
		j.halt()
		return fmt.Errorf("%w; the results are kept in %s", err, filepath.Join(j.dir, outboxDir))
	}
	return err
}

// refused prints that the bench refused a message.
func (j *Joined) refused(path string, err error) {
	j.say("The bench refused a message: %v It is kept in %s.", err, path)
}

// sendMeanwhile sends what is finished while something is worked on.
func (j *Joined) sendMeanwhile(ctx context.Context) {
	for {
		select {
		case <-j.wake:
		case <-ctx.Done():
			return
		}
		// who asks for work hears of what stays
		_ = j.again(ctx, func() error { return j.outbox.Send(ctx, j.bench, j.refused) })
	}
}

// put stores a message and triggers sending.
func (j *Joined) put(what string, v any) error {
	if err := j.outbox.Put(what, v); err != nil {
		// With a full drive only the bench can store it.
		ctx, stop := context.WithTimeout(context.Background(), answering)
		defer stop()
		if unsent := j.bench.Say(ctx, what, v); unsent != nil {
			return errors.Join(err, unsent)
		}
		j.say("%v; the bench has received it.", err)
		return nil
	}
	select {
	case j.wake <- struct{}{}:
	default:
	}
	return nil
}

// do carries out an order. It reports whether the probe has left.
func (j *Joined) do(ctx context.Context, o *order.Order) (left bool, err error) {
	if err := o.Allowed(); err != nil {
		j.say("The bench asked for something this probe can't do: %v.", err)
		if o.ID != "" && order.Begun(o.Kind) {
			return false, j.put("ended",
				order.Ended{Order: o.ID, State: order.Failed,
					Error: shortened("the probe does not do this: " + err.Error())})
		}
		return false, nil
	}
	switch o.Kind {
	case order.Measure, order.Launch, order.Restart, order.Capacity, order.Sustain, order.List, order.Compare:
		j.begin(ctx, o)
	case order.Stop:
		if j.current() == o.ID {
			j.halt()
		}
	case order.Look:
		l := order.Facts{Order: o.ID}
		if err = j.allowedPlaces(ctx, o); err == nil {
			l.Conditions, l.Causes, err = j.computer.Conditions(ctx, o.Dir)
		}
		if err != nil {
			l.Refused = err.Error()
		}
		err = j.bench.Say(ctx, "looked", l)
		var no *RefusedError
		if err != nil && (errors.Is(err, ErrLetGo) || !errors.As(err, &no)) {
			j.say("The conditions couldn't be sent: %v", err)
			err = nil // who asked has given up, and asks again
		}
	case order.Weigh:
		go j.weigh(ctx, o) // it takes minutes on a large disk, and other orders come meanwhile
	case order.Greet:
		err = j.greet(ctx)
	case order.Simulate:
		err = j.simulate(ctx, o.Do)
	case order.Leave:
		j.halt()
		if err := j.again(ctx, func() error { return j.outbox.Send(ctx, j.bench, j.refused) }); err != nil {
			return false, err
		}
		if err := j.again(ctx, func() error { return j.bench.Say(ctx, "left", struct{}{}) }); err != nil &&
			!errors.Is(err, ErrLetGo) {
			return false, err
		}
		j.say("Disconnected by the bench. Test files are removed.")
		return true, j.remove()
	default:
		j.say("The bench asked for something this probe doesn't know (%s). Download the probe from it again.", o.Kind)
	}
	return false, err
}

// errMeasuring is why folders are not looked into.
var errMeasuring = errors.New("a round is running; try again when it has finished")

// weigh finds the largest folders and sends them. It doesn't run during a measurement, and a measurement that
// begins stops it: it would affect the figures.
func (j *Joined) weigh(ctx context.Context, o *order.Order) {
	within, stop := context.WithCancel(ctx)
	defer stop()
	j.mu.Lock()
	busy, measuring := j.weighing != nil, j.doing != ""
	if !busy && !measuring {
		j.weighing = stop
	}
	j.mu.Unlock()
	w := order.Weighed{}
	var err error
	switch {
	case busy:
		return // the answer to the first is the second's as well
	case measuring:
		err = errMeasuring
	default:
		if err = j.allowedPlaces(within, o); err == nil {
			w, err = j.computer.Weigh(within, o.Dir)
		}
		if within.Err() != nil {
			err = errMeasuring
		}
		j.mu.Lock()
		j.weighing = nil
		j.mu.Unlock()
	}
	if ctx.Err() != nil {
		return
	}
	if w.Order = o.ID; err != nil {
		w.Refused = err.Error()
	}
	if err := j.bench.Say(ctx, "weighed", w); err != nil {
		j.say("The large folders couldn't be determined: %v", err)
	}
}

// simulate performs an action on a simulated computer.
func (j *Joined) simulate(ctx context.Context, what string) error {
	if what == order.Swap {
		j.halt()
	}
	if err := j.computer.Do(what); err != nil {
		j.say("That isn't possible: %v", err)
		return nil
	}
	if err := j.rekeep(); err != nil {
		return err
	}
	if what != order.Swap {
		return j.greet(ctx)
	}
	j.say("The drive is swapped. The computer is away for a moment.")
	select {
	case <-time.After(j.o.Away):
	case <-ctx.Done():
		return ctx.Err()
	}
	return j.greet(ctx)
}

// greet sends a new hello.
func (j *Joined) greet(ctx context.Context) error {
	return j.again(ctx, func() error { _, err := j.bench.Hello(ctx, j.hello(ctx)); return err })
}

// rekeep stores a simulated computer's state on disk.
func (j *Joined) rekeep() error {
	k, err := readJoined(j.dir)
	if err != nil {
		return err
	}
	return j.keep(k.Job)
}

// current is the current order, or "".
func (j *Joined) current() string {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.doing
}

// begin starts an order in the background.
func (j *Joined) begin(ctx context.Context, o *order.Order) {
	within, stop := context.WithCancel(ctx)
	ended := make(chan struct{})
	j.mu.Lock()
	j.doing, j.stop, j.ended = o.ID, stop, ended
	if j.weighing != nil {
		j.weighing()
	}
	j.mu.Unlock()
	go func() {
		defer close(ended)
		defer stop()
		e := j.measure(ctx, within, o)
		// Ending the probe doesn't end its order: it continues at the next start.
		if ctx.Err() == nil {
			if err := j.put("ended", e); err != nil {
				j.say("%v", err)
			}
		}
		j.mu.Lock()
		j.doing = ""
		j.mu.Unlock()
	}()
}

// halt stops the current order and waits for it.
func (j *Joined) halt() {
	j.mu.Lock()
	stop, ended := j.stop, j.ended
	j.mu.Unlock()
	if stop != nil {
		stop()
		<-ended
	}
}

// measure runs the tests of an order. Every run is on disk before the next begins.
func (j *Joined) measure(ctx, within context.Context, o *order.Order) order.Ended {
	e := order.Ended{Order: o.ID, State: order.Done}
	var cleared *round.Cleared
	err := j.allowedPlaces(within, o)
	switch {
	case err != nil:
	case o.Kind == order.Launch:
		err = j.launches(within, o)
	case o.Kind == order.Restart:
		err = j.restart(ctx, within, o)
	case o.Kind == order.Capacity, o.Kind == order.Sustain:
		err = j.check(within, o)
	case o.Kind == order.List, o.Kind == order.Compare:
		err = j.files(within, o)
	default:
		cleared, err = j.round(within, o)
	}
	if cleared != nil {
		e.Cleared = words.Cleared(cleared.Left, cleared.Trimmed, cleared.Untrimmed)
	}
	switch {
	case err == nil && ctx.Err() != nil:
		j.say("The probe stops with the computer and resumes when it is back.")
	case err == nil:
		j.say("The round is finished.")
	case errors.Is(err, context.Canceled):
		e.State = order.Cancelled
		j.say("The round was cancelled. Finished runs are kept.")
	default:
		e.State, e.Error = order.Failed, shortened(err.Error())
		j.say("The round ended: %v", err)
	}
	return e
}

// shortened formats an error for sending.
func shortened(s string) string {
	const most = 1500
	if len(s) > most {
		s = strings.ToValidUTF8(s[:most], "")
	}
	return s
}

func (j *Joined) round(ctx context.Context, o *order.Order) (cleared *round.Cleared, err error) {
	steps := o.Steps()
	if len(steps) == 0 {
		return nil, nil
	}
	gentle := round.Gentle(o.Tests)
	place, err := j.computer.Open(ctx, o.Dir, gentle)
	if err != nil {
		return nil, err
	}
	rnd, err := round.Open(ctx, place,
		round.Options{Tests: o.Tests, Seed: o.Seed, MaxTempC: o.MaxTempC, Folder: o.Folder})
	if err != nil {
		return nil, err
	}
	tell, done := j.reporter(ctx, o)
	defer done()
	var conditions job.Conditions
	var unseen error
	var last time.Duration
	err = rnd.All(ctx, steps, round.Along{
		Before: func(at int, s round.Step) (err error) {
			if conditions, unseen, err = j.settled(ctx, o, at); err == nil {
				j.say("%s, run %d of %d", s.Test.Name, s.Run, s.Runs)
			}
			last = 0
			return err
		},
		Tell: func(at int, _ round.Step, p drivetest.Progress) {
			j.hold(ctx, p.Elapsed-last)
			last = p.Elapsed
			tell(o.Skip+at, p)
		},
		Keep: func(at int, _ round.Step, run *job.Run) error {
			if seen := conditions; unseen == nil {
				run.Conditions = &seen
			}
			return j.finished(o, at, run)
		}})
	if !gentle {
		c := rnd.Cleared()
		cleared = &c
	}
	return cleared, err
}

// finished keeps the run of an order's step until the bench has it.
func (j *Joined) finished(o *order.Order, step int, run *job.Run) error {
	run.ID, run.Sitting, run.At = ulid.Make().String(), o.Sitting, time.Now().Truncate(time.Millisecond)
	run.Simulated = run.Simulated || j.computer.Simulated() != ""
	return j.put("runs", order.Result{Order: o.ID, Step: o.Skip + step, Run: *run})
}

// launches times the launches of an order.
func (j *Joined) launches(ctx context.Context, o *order.Order) error {
	steps := o.Steps()
	if len(steps) == 0 {
		return nil
	}
	if err := j.permit(ctx, steps[0].Test.Launch); err != nil {
		return err
	}
	launch, err := j.computer.Launcher(steps[0].Test, o.Seed+uint64(max(o.Skip, 0)))
	if err != nil {
		return err
	}
	for i, step := range steps {
		conditions, unseen, err := j.settled(ctx, o, i)
		if err != nil {
			return err
		}
		j.say("%s, launch %d of %d", step.Test.Name, step.Run, step.Runs)
		_ = j.bench.Say(ctx, "progress", order.Progress{Order: o.ID, Step: o.Skip + i}) // a person watches it, no more
		run, err := launch(ctx)
		if err != nil {
			return fmt.Errorf("%s: %w", step.Test.Name, err)
		}
		if unseen == nil {
			run.Conditions = &conditions
		}
		if err := j.finished(o, i, run); err != nil {
			return err
		}
		j.hold(ctx, time.Duration(run.Value*float64(time.Second)))
	}
	return nil
}

// lookAgain is how long a patient probe waits before it checks again.
const lookAgain = 2 * time.Second

// settled checks the conditions before a step and, if wanted, waits until nothing makes it doubtful. unseen
// says that they couldn't be read.
func (j *Joined) settled(ctx context.Context, o *order.Order, step int) (conditions job.Conditions, unseen, err error) {
	told := ""
	for {
		conditions, _, unseen = j.computer.Conditions(ctx, o.Dir)
		if ctx.Err() != nil {
			return conditions, unseen, ctx.Err()
		}
		waiting := strings.Join(fairness.Doubts(&conditions), " ")
		if told != "" || o.Patient && unseen == nil && waiting != "" {
			// That it waits is told once more when it does not any longer.
			_ = j.bench.Say(ctx, "progress", order.Progress{Order: o.ID, Step: o.Skip + step, Waiting: waiting})
		}
		if !o.Patient || unseen != nil || waiting == "" {
			return conditions, unseen, nil
		}
		if told != waiting {
			told = waiting
			j.say("Waiting: %s", waiting)
		}
		select {
		case <-time.After(lookAgain):
		case <-ctx.Done():
			return conditions, unseen, ctx.Err()
		}
	}
}

// hold slows a simulated computer down to its pace.
func (j *Joined) hold(ctx context.Context, step time.Duration) {
	if j.computer.Simulated() == "" || j.o.Pace <= 0 || step <= 0 {
		return
	}
	select {
	case <-time.After(time.Duration(float64(step) / j.o.Pace)):
	case <-ctx.Done():
	}
}

// reportEvery is how often progress is sent at most: a person watches it, and what it costs
// must not be seen in the figures.
const reportEvery = 500 * time.Millisecond

// reporter returns what tells progress. It is sent beside the measuring, the newest alone;
// what cannot be sent is left out.
func (j *Joined) reporter(ctx context.Context, o *order.Order) (tell func(step int, p drivetest.Progress),
	done func()) {
	newest := make(chan order.Progress, 1)
	var sender sync.WaitGroup
	sender.Go(func() {
		for p := range newest {
			_ = j.bench.Say(ctx, "progress", p)
		}
	})
	told := time.Time{}
	return func(step int, p drivetest.Progress) {
			if time.Since(told) < reportEvery {
				return
			}
			told = time.Now()
			select {
			case newest <- order.ProgressOf(o.ID, step, p):
			default: // the last one is still on its way
			}
		}, func() {
			close(newest)
			sender.Wait()
		}
}
