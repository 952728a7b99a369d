// Package bench holds the use cases of a technician's bench: open a job, take
// runs, compare, hand over. It ties the core to the store and to what measures.
//
// It knows nothing of HTTP or screens. Whatever happens is told to those who
// listen ([Bench.Listen]) after it is on disk, never before.
package bench

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/oklog/ulid/v2"

	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/words"
	"nowthen/machine"
	"nowthen/store"
)

// Bench is a shop's bench.
type Bench struct {
	store *store.Store
	hub   hub
	log   *slog.Logger
	// pace is how many virtual seconds a simulated measuring passes in a real
	// one, so that a person can watch it; 0 is as fast as it goes.
	pace float64

	// shift moves the time of day, so that made-up jobs lie in the past.
	shift  time.Duration
	origin time.Time // with a monotonic reading: the clock that timers use

	timing sync.Mutex // one change of a timer at a time

	clipDir string     // "" where clips are not kept
	clips   sync.Mutex // one change of a clip at a time

	mu        sync.Mutex
	measuring map[string]*running // the last measuring of each job
	active    *running            // the one that runs, or nil

	cards cards
}

// Options are what a bench can be told.
type Options struct {
	Log  *slog.Logger
	Pace float64
	// Clips is the folder in which video clips are kept; "" takes none.
	Clips string
}

// New returns a bench over a store. Test files that a killed program left
// behind are removed first.
func New(ctx context.Context, s *store.Store, o Options) (*Bench, error) {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	b := &Bench{store: s, log: o.Log, pace: o.Pace, origin: time.Now(), measuring: map[string]*running{}, clipDir: o.Clips}
	return b, errors.Join(b.sweep(ctx), b.sweepClips(ctx))
}

// sweep removes left test files from the folders that were being measured.
func (b *Bench) sweep(ctx context.Context) error {
	dirs, err := b.store.Folders(ctx)
	if err != nil {
		return err
	}
	for _, dir := range dirs {
		n, err := machine.Sweep(dir)
		if err != nil {
			// The folder may be on a drive that is gone; look again next time.
			b.log.Warn("left test files could not be looked for", "folder", dir, "error", err)
			continue
		}
		if n > 0 {
			b.log.Info("removed left test files", "folder", dir, "files", n)
		}
		if err := b.store.ForgetFolder(ctx, dir); err != nil {
			return err
		}
	}
	return nil
}

// Close cancels what is measuring and waits until its test file is gone.
func (b *Bench) Close() {
	b.mu.Lock()
	r := b.active
	b.mu.Unlock()
	if r != nil {
		r.cancel()
		<-r.ended
	}
}

// now is the time of day, going on steadily whatever is done to the computer's
// clock while the program runs.
func (b *Bench) now() time.Time {
	return b.origin.Add(time.Since(b.origin) + b.shift).Truncate(time.Millisecond)
}

// NowMS is the bench's clock in milliseconds since 1970. It never jumps.
func (b *Bench) NowMS() float64 {
	t := b.origin.Add(time.Since(b.origin))
	return float64(t.UnixMicro()) / 1000
}

// Ask is a figure that would fit better than the one in doubt.
type Ask struct {
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
	Words string  `json:"words"`
}

// Kind says what sort of refusal a [Refusal] is.
type Kind int

// Kinds of refusal.
const (
	Invalid  Kind = iota // what was given is wrong
	Conflict             // it does not fit what is there
	Missing              // there is no such thing
)

// Refusal is why something was not done: what is wrong, what was kept, and
// what to do. Fields names the faulty inputs.
type Refusal struct {
	Kind    Kind              `json:"-"`
	Message string            `json:"message"`
	Kept    string            `json:"kept,omitempty"`
	Do      string            `json:"do,omitempty"`
	Fields  map[string]string `json:"fields,omitempty"`
	Lost    []plan.Lost       `json:"lost,omitempty"`
	// Ask is what a figure in doubt may have been meant to be.
	Ask *Ask `json:"ask,omitempty"`
}

func (r *Refusal) Error() string { return r.Message }

func invalid(format string, args ...any) *Refusal {
	return &Refusal{Kind: Invalid, Message: fmt.Sprintf(format, args...)}
}

func conflict(format string, args ...any) *Refusal {
	return &Refusal{Kind: Conflict, Message: fmt.Sprintf(format, args...)}
}

func missing(format string, args ...any) *Refusal {
	return &Refusal{Kind: Missing, Message: fmt.Sprintf(format, args...)}
}

// fields collects faulty inputs.
type fields map[string]string

func (f fields) check(ok bool, field, message string) {
	if !ok && f[field] == "" {
		f[field] = message
	}
}

func (f fields) refusal() error {
	if len(f) == 0 {
		return nil
	}
	names := slices.Sorted(maps.Keys(f))
	return &Refusal{Kind: Invalid, Fields: f, Message: f[names[0]], Kept: "Nothing was changed.", Do: "Correct it and send it again."}
}

// wrap turns the store's "not found" into a refusal.
func wrap(err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return missing("There is no such %s.", strings.SplitN(strings.TrimSuffix(err.Error(), ": not found"), " ", 2)[0])
	}
	return err
}

// update changes a job and tells those who listen.
func (b *Bench) update(ctx context.Context, id string, change func(*job.Job) error) (*View, error) {
	j, err := b.store.Update(ctx, id, func(j *job.Job) error {
		if err := change(j); err != nil {
			return err
		}
		j.SettleFacts(b.now())
		return nil
	})
	if err != nil {
		return nil, wrap(err)
	}
	b.hub.tell(Event{Type: "job", Job: id})
	return b.view(id, j), nil
}

func newID() string { return ulid.Make().String() }

// View is a job with what follows from it.
type View struct {
	ID        string       `json:"id"`
	Job       *job.Job     `json:"job"`
	Simulated bool         `json:"simulated"`
	Here      string       `json:"here"`
	Track     []plan.Step  `json:"track"`
	Next      plan.Next    `json:"next"`
	Coverage  []plan.Cover `json:"coverage"`
	// Lost, Again and Back are what is missing at the three gates.
	Lost   []plan.Lost   `json:"lost"`
	Again  []plan.Lost   `json:"again"`
	Back   []plan.Lost   `json:"back"`
	Budget []plan.Budget `json:"budget"`
}

func (b *Bench) view(id string, j *job.Job) *View {
	v := &View{ID: id, Job: j, Simulated: j.Simulated(), Here: plan.Here(j), Track: plan.Track(j), Next: plan.NextStep(j),
		Coverage: []plan.Cover{}, Lost: []plan.Lost{}, Again: plan.BeforeMeasuredAgain(j), Back: plan.BeforeHandedBack(j), Budget: []plan.Budget{}}
	for i := range j.Setups {
		v.Coverage = append(v.Coverage, plan.Coverage(j, j.Setups[i].ID)...)
		v.Budget = append(v.Budget, plan.BudgetOf(j, &j.Setups[i]))
	}
	if j.Gate(job.GateOldDriveOut) == nil {
		v.Lost = plan.BeforeOldDriveOut(j)
	}
	return v
}

// Job returns a job.
func (b *Bench) Job(ctx context.Context, id string) (*View, error) {
	j, err := b.store.Job(ctx, id)
	if err != nil {
		return nil, wrap(err)
	}
	return b.view(id, j), nil
}

// Card is a job on the bench page.
type Card struct {
	ID        string      `json:"id"`
	Number    string      `json:"number"`
	Opened    time.Time   `json:"opened"`
	Customer  string      `json:"customer"`
	Computer  string      `json:"computer"`
	OldDrive  string      `json:"old_drive"`
	NewDrive  string      `json:"new_drive"`
	Reason    string      `json:"reason"`
	Simulated bool        `json:"simulated"`
	Here      string      `json:"here"`
	Track     []plan.Step `json:"track"`
	Next      plan.Next   `json:"next"`
	Since     time.Time   `json:"since"` // when something last happened in it
}

func card(id string, j *job.Job) Card {
	c := Card{ID: id, Number: j.Head.Number, Opened: j.Head.Opened, Customer: j.Head.Customer.Name, Reason: j.Head.Reason,
		Simulated: j.Simulated(), Here: plan.Here(j), Track: plan.Track(j), Next: plan.NextStep(j), Since: j.Head.Opened}
	if len(j.Computers) > 0 {
		c.Computer = strings.TrimSpace(j.Computers[0].Maker + " " + j.Computers[0].Model)
	}
	driveOf := func(role string) string {
		if s := j.SetupAs(role); s != nil {
			return words.DriveName(j.Drive(s.Drive))
		}
		return ""
	}
	c.OldDrive, c.NewDrive = driveOf(job.Then), driveOf(job.Now)
	for _, r := range j.Runs {
		if r.At.After(c.Since) {
			c.Since = r.At
		}
	}
	for _, g := range j.Head.Gates {
		if g.At.After(c.Since) {
			c.Since = g.At
		}
	}
	return c
}
