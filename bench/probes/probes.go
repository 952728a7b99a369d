// Package probes connects probes on customers' computers to jobs of the bench: how they join,
// their orders and their reports. It passes their measurements to package measuring.
//
// It must not import HTTP, screens or other use cases.
package probes

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"time"

	"nowthen/core/hardware/match"

	"github.com/go-json-experiment/json"

	"nowthen/access/slow"
	"nowthen/access/token"
	"nowthen/bench"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/order"
	"nowthen/core/plan"
	"nowthen/core/rescue"
	"nowthen/store"
)

// Store is the part of the store that probes use.
type Store interface {
	Probe(ctx context.Context, id string) (*store.Probe, error)
	ProbeByToken(ctx context.Context, token string) (*store.Probe, error)
	Probes(ctx context.Context, jobID string, all bool) ([]*store.Probe, error)
}

// awayAfter is the silence after which a probe counts as away. It asks for work more often than that.
const awayAfter = 40 * time.Second

// Probes manages the probes that have joined.
type Probes struct {
	jobs  *bench.Jobs
	store Store
	log   *slog.Logger
	// begun is when this program was started, and start identifies that start to probes that ask for the clock twice.
	begun time.Time
	start string

	wrong slow.Limiter // of tries with codes

	mu   sync.Mutex
	live map[string]*live // by probe, since the program started
}

// live is the state of a probe that isn't stored.
type live struct {
	heard time.Time
	wake  chan struct{} // closed when there may be something to do
	// errands are short orders waiting for the probe, and answers the channels of callers waiting for replies.
	errands []order.Order
	answers map[string]chan order.Facts
	// checking is its current check of the new drive, and progress how far that is; other is an order that is no
	// check.
	checking string
	other    string
	progress order.Progress
}

// New returns the probes of a bench.
func New(jobs *bench.Jobs, s Store, log *slog.Logger) *Probes {
	if log == nil {
		log = slog.New(slog.DiscardHandler)
	}
	return &Probes{jobs: jobs, store: s, log: log, live: map[string]*live{}, begun: time.Now(), start: bench.NewID()}
}

// record is the stored form of a probe.
type record struct {
	ID        string         `json:"id"`
	Job       string         `json:"job"`
	Token     string         `json:"-"` // hashed
	Machine   string         `json:"machine,omitempty"`
	Engine    string         `json:"engine"`
	System    string         `json:"system"`
	Simulated string         `json:"simulated,omitempty"`
	Facts     hardware.Facts `json:"facts"`
	Joined    time.Time      `json:"joined"`
	Heard     time.Time      `json:"heard"` // when it last said hello
	// Behind is how far its clock is behind the bench's, s.
	Behind float64 `json:"behind_s,omitempty"`
	// Sides are its facts with each setup's drive in it.
	Sides map[string]Reported `json:"sides,omitempty"`
	// Weighed are the largest folders, by the setup whose drive they are on.
	Weighed map[string]Weighed `json:"weighed,omitempty"`
	// Checking is the last check of the new drive that it was asked for.
	Checking *Checking `json:"checking,omitempty"`
	// Order is its current order, until it says how it ended.
	Order *order.Order `json:"order,omitempty"`
	// Stop: the order was withdrawn.
	Stop bool `json:"stop,omitempty"`
	// Given are its recent orders, latest last, and their results.
	Given []*given `json:"given,omitempty"`
	// Leaving: it is to leave at LeavesAt and hasn't confirmed it yet. Once it has, there is no LeavesAt.
	Leaving  bool      `json:"leaving,omitempty"`
	LeavesAt time.Time `json:"leaves_at,omitzero"`
	Gone     bool      `json:"-"`
}

// Reported is a probe's facts, and when it sent them.
type Reported struct {
	Facts hardware.Facts `json:"facts"`
	At    time.Time      `json:"at"`
}

// Weighed are the largest folders, and when they were determined.
type Weighed struct {
	order.Weighed
	At time.Time `json:"at"`
}

// weigh stores the largest folders of a setup's drive. If they couldn't be read, the earlier ones stay, with
// the reason.
func (r *record) weigh(setup string, w order.Weighed, now time.Time) {
	if r.Weighed == nil {
		r.Weighed = map[string]Weighed{}
	}
	before, ok := r.Weighed[setup]
	if w.Refused != "" && ok && len(before.Largest) > 0 {
		before.Refused = w.Refused
		r.Weighed[setup] = before
		return
	}
	r.Weighed[setup] = Weighed{w, now}
}

// hear stores what a probe says about itself.
func (r *record) hear(h order.Hello, now time.Time) {
	r.Machine, r.Engine, r.System, r.Facts, r.Heard = h.Machine, h.Engine, h.System, h.Facts, now
	r.Behind = 0
	if !h.Now.IsZero() {
		r.Behind = now.Sub(h.Now).Seconds()
	}
	if r.Simulated == "" {
		r.Simulated = h.Simulated // nothing takes it off
	}
}

func read(p *store.Probe) (*record, error) {
	r := &record{}
	if err := json.Unmarshal(p.Body, r); err != nil {
		return nil, fmt.Errorf("probe %s: %w", p.ID, err)
	}
	r.Token, r.Gone = p.Token, p.Gone
	return r, nil
}

// stored loads a probe.
func (x *Probes) stored(ctx context.Context, id string) (*record, error) {
	p, err := x.store.Probe(ctx, id)
	if err != nil {
		return nil, err
	}
	return read(p)
}

// save stores the probe.
func (r *record) save(ctx context.Context, tx *store.Tx) error {
	body, err := json.Marshal(r)
	if err != nil {
		return err
	}
	return tx.SaveProbe(ctx, store.Probe{ID: r.ID, Job: r.Job, Token: r.Token, Gone: r.Gone, Body: body})
}

// of loads the probes of a job.
func (x *Probes) of(ctx context.Context, jobID string) ([]*record, error) {
	rows, err := x.store.Probes(ctx, jobID, false)
	if err != nil {
		return nil, err
	}
	list := make([]*record, len(rows))
	for i, p := range rows {
		if list[i], err = read(p); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// probe returns a probe of a job that has not left.
func (x *Probes) probe(ctx context.Context, jobID, id string) (*record, error) {
	p, err := x.store.Probe(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && (p.Job != jobID || p.Gone) {
		return nil, bench.Refuse(bench.Missing, "There is no such probe in this job.")
	}
	if err != nil {
		return nil, err
	}
	return read(p)
}

// with returns a probe of a job that hasn't left, and the job.
func (x *Probes) with(ctx context.Context, jobID, id string) (*record, *job.Job, error) {
	r, err := x.probe(ctx, jobID, id)
	if err != nil {
		return nil, nil, err
	}
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, nil, err
	}
	return r, s.Job, nil
}

// change changes a stored probe.
func (x *Probes) change(ctx context.Context, ch *bench.Change, id string, change func(r *record) error) error {
	return x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		p, err := ch.Tx.Probe(ctx, id)
		if err != nil {
			return err
		}
		r, err := read(p)
		if err != nil {
			return err
		}
		if err := change(r); err != nil {
			return err
		}
		return r.save(ctx, ch.Tx)
	})
}

// ErrUnknown means that a token belongs to no probe, or to one that was told to leave.
var ErrUnknown = errors.New("the bench does not know this probe, or has let it go")

// Known returns the probe with a token, and its job.
func (x *Probes) Known(ctx context.Context, secret string) (id, jobID string, err error) {
	if secret == "" {
		return "", "", ErrUnknown
	}
	p, err := x.store.ProbeByToken(ctx, token.Hash(secret))
	if errors.Is(err, store.ErrNotFound) || err == nil && p.Gone {
		return "", "", ErrUnknown
	}
	if err != nil {
		return "", "", err
	}
	x.heard(p.ID)
	return p.ID, p.Job, nil
}

// alive returns the live state of a probe. The caller holds the lock.
func (x *Probes) alive(id string) *live {
	l := x.live[id]
	if l == nil {
		l = &live{wake: make(chan struct{}), answers: map[string]chan order.Facts{}}
		x.live[id] = l
	}
	return l
}

// heard stores that a probe made contact.
func (x *Probes) heard(id string) {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.alive(id).heard = time.Now()
}

// wake lets a waiting probe check for work.
func (x *Probes) wake(id string) {
	x.mu.Lock()
	defer x.mu.Unlock()
	l := x.alive(id)
	close(l.wake)
	l.wake = make(chan struct{})
}

func (x *Probes) tell(jobID string) {
	x.jobs.Tell(bench.Event{Type: bench.ProbesEvent, Job: jobID})
}

// Back takes the hello of a probe that had joined before and was restarted.
func (x *Probes) Back(ctx context.Context, id string, h order.Hello) (*order.Welcome, error) {
	if err := h.Check(); err != nil {
		return nil, refusedHello(err)
	}
	var r *record
	if err := x.change(ctx, nil, id, func(it *record) error {
		r = it
		it.hear(h, x.jobs.Now())
		return nil
	}); err != nil {
		return nil, err
	}
	return x.welcome(ctx, r, "")
}

// takeFacts fills in what a probe reports of the setup that its computer is in, unless it contradicts what
// somebody entered.
func (x *Probes) takeFacts(ctx context.Context, r *record) error {
	s, err := x.jobs.Load(ctx, r.Job)
	if err != nil {
		return err
	}
	setup := match.SetupOf(&r.Facts, s.Job)
	if setup != nil {
		var before *hardware.Facts
		if err := x.change(ctx, nil, r.ID, func(it *record) error {
			if it.Sides == nil {
				it.Sides = map[string]Reported{}
			}
			if t, ok := it.Sides[setup.ID]; ok {
				before = &t.Facts
			}
			it.Sides[setup.ID] = Reported{r.Facts, x.jobs.Now()}
			return nil
		}); err != nil {
			return err
		}
		if before != nil {
			if s, setup, err = x.follow(ctx, r, before, s, setup); err != nil {
				return err
			}
		}
	}
	if setup == nil || len(match.Contradictions(&r.Facts, s.Job, setup)) > 0 {
		return x.markSimulated(ctx, r)
	}
	return x.fill(ctx, nil, r, setup.ID, false)
}

// follow updates the link of a setup if the probe sees that it was fixed, and returns the resulting job.
func (x *Probes) follow(ctx context.Context, r *record, before *hardware.Facts, s *bench.Snapshot,
	setup *job.Setup) (*bench.Snapshot, *job.Setup, error) {
	if it := *setup; !match.Follow(&r.Facts, before, s.Job, &it) {
		return s, setup, nil
	}
	if _, err := x.jobs.Change(ctx, nil, r.Job, func(j *job.Job) error {
		if it := j.Setup(setup.ID); it != nil {
			match.Follow(&r.Facts, before, j, it)
		}
		return nil
	}); err != nil {
		return nil, nil, err
	}
	s, err := x.jobs.Load(ctx, r.Job)
	if err != nil {
		return nil, nil, err
	}
	return s, s.Job.Setup(setup.ID), nil
}

// fill fills in what a probe reports of a setup, replacing existing values if instead is set.
func (x *Probes) fill(ctx context.Context, ch *bench.Change, r *record, setup string, instead bool) error {
	_, err := x.jobs.Change(ctx, ch, r.Job, func(j *job.Job) error {
		s := j.Setup(setup)
		if s == nil {
			return bench.NoSuch("setup", setup)
		}
		d := j.Drive(s.Drive)
		// first contact: later the plan is a person's choice
		fresh := d.SerialDigest == "" && d.Model == ""
		if match.FillIn(&r.Facts, j, s); instead {
			match.Instead(&r.Facts, j, s)
		}
		simulated(j, s, r)
		if fresh && s.Role == job.Then && rescue.Failing(match.UnderTest(&r.Facts, j, s)) != "" {
			plan.GoGentle(j)
		}
		if on := j.SittingsOn(s.ID); len(on) > 0 {
			if last := j.Sitting(on[len(on)-1].ID); x.jobs.Now().Sub(last.Started) < sameDay {
				r.health(j, last)
			}
		}
		return nil
	})
	return err
}

// sameDay is how long after its start a session still gets the drive's health.
const sameDay = 12 * time.Hour

// health stores a drive's health with a sitting, once.
func (r *record) health(j *job.Job, s *job.Sitting) {
	if setup := j.Setup(s.Setup); s.Health == nil && s.Job == "" && setup != nil {
		s.Health = match.HealthNow(&r.Facts, j, setup)
	}
}

// markSimulated marks the computers of a job that a simulated computer has joined.
func (x *Probes) markSimulated(ctx context.Context, r *record) error {
	if r.Simulated == "" {
		return nil
	}
	_, err := x.jobs.Change(ctx, nil, r.Job, func(j *job.Job) error {
		for i := range j.Setups {
			simulated(j, &j.Setups[i], r)
		}
		return nil
	})
	return err
}

// simulated marks a setup's computer if a simulated one stands in for it.
func simulated(j *job.Job, s *job.Setup, r *record) {
	if c := j.Computer(s.Computer); r.Simulated != "" && c.Simulated == "" {
		c.Simulated = r.Simulated
	}
}

// Probe is a probe as a page shows it.
type Probe struct {
	ID        string `json:"id"`
	Name      string `json:"name"` // of its computer
	System    string `json:"system"`
	Simulated string `json:"simulated"`
	// Away: it hasn't made contact for a while.
	Away   bool      `json:"away"`
	Joined time.Time `json:"joined"`
	// Busy: it is measuring.
	Busy    bool `json:"busy"`
	Leaving bool `json:"leaving"`
	// Setup is the setup that its computer is in, "" if none fits; Mount is where the drive under test is mounted.
	Setup string `json:"setup"`
	Mount string `json:"mount"`
	// Mounts are the mount points of the setups' drives on it, by setup.
	Mounts         map[string]string     `json:"mounts"`
	Contradictions []match.Contradiction `json:"contradictions"`
	Facts          hardware.Facts        `json:"facts"`
	// Starts are the starts that its system recorded with its current drive, newest first.
	Starts []hardware.Start `json:"starts"`
	// Doings are the actions on a simulated computer.
	Doings []string `json:"doings"`
	// Checking is its last check of the new drive; nil if there was none.
	Checking *Shown `json:"checking"`
}

// Of returns the probes that have joined a job.
func (x *Probes) Of(ctx context.Context, jobID string) ([]Probe, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	records, err := x.of(ctx, jobID)
	if err != nil {
		return nil, err
	}
	list := []Probe{}
	for _, r := range records {
		list = append(list, x.shown(s.Job, r))
	}
	return list, nil
}

func (x *Probes) shown(j *job.Job, r *record) Probe {
	name := strings.TrimSpace(r.Facts.Computer.Maker + " " + r.Facts.Computer.Model)
	if name == "" {
		name = "A computer with " + r.System
	}
	p := Probe{ID: r.ID, Name: name, System: strings.TrimSpace(r.Facts.System.Name + " " + r.Facts.System.Version),
		Simulated: r.Simulated, Joined: r.Joined,
		Busy: r.Order != nil, Leaving: r.Leaving, Facts: r.Facts, Away: x.away(r.ID), Contradictions: []match.Contradiction{}, Starts: []hardware.Start{}, Doings: []string{},
		Checking: x.shownCheck(r), Mounts: match.Mounts(&r.Facts, j)}
	if r.Simulated != "" {
		p.Doings = order.Doings
	}
	if setup := match.SetupOf(&r.Facts, j); setup != nil {
		p.Setup = setup.ID
		p.Starts = append(p.Starts, recorded(j, r, setup.ID)...)
		p.Contradictions = append(p.Contradictions, match.Contradictions(&r.Facts, j, setup)...)
		if d := match.UnderTest(&r.Facts, j, setup); d != nil {
			p.Mount = r.Facts.MountOf(d.ID)
		}
	}
	return p
}

// away reports whether nothing was heard of a probe for a while.
func (x *Probes) away(id string) bool {
	x.mu.Lock()
	defer x.mu.Unlock()
	l := x.live[id]
	return l == nil || time.Since(l.heard) > awayAfter
}

// At returns which simulated computer a probe's is ("" for a real one), and which setup it is in ("" if
// unknown).
func (x *Probes) At(ctx context.Context, jobID, id string) (simulated, setup string, err error) {
	r, j, err := x.with(ctx, jobID, id)
	if err != nil {
		return "", "", err
	}
	p := x.shown(j, r)
	return p.Simulated, p.Setup, nil
}

// Holding returns the folder in which a setup's drive is measured on a probe's computer: the chosen one if it
// is on that drive, as far as is known; else its mount point; "" if no name is needed. ok is false if the drive
// isn't in that computer.
func (x *Probes) Holding(ctx context.Context, jobID, id, setup, chosen string) (dir string, ok bool, err error) {
	r, j, err := x.with(ctx, jobID, id)
	if err != nil {
		return "", false, err
	}
	in := match.SetupOf(&r.Facts, j)
	mount, known := match.Mounts(&r.Facts, j)[setup]
	switch s := j.Setup(setup); {
	case s == nil, !known && (in == nil || in.ID != setup):
		return "", false, nil
	case chosen == "":
		return mount, true, nil
	default:
		return chosen, match.Holds(&r.Facts, j, s, chosen), nil
	}
}

// TakeFacts fills in what a probe reports of a setup; if instead is set, it replaces differing values, too.
func (x *Probes) TakeFacts(ctx context.Context, ch *bench.Change, jobID, id, setup string,
	instead bool) (*bench.View, error) {
	r, err := x.probe(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	if err := x.fill(ctx, ch, r, setup, instead); err != nil {
		return nil, err
	}
	return x.jobs.View(ctx, jobID)
}

// mind is how long disconnecting a probe can be undone.
const mind = 10 * time.Second

// Dismiss tells a probe to leave in ten seconds; until then [Probes.Stay] undoes it. A probe that is away is
// removed at once: when it is back, it is no longer known and ends.
func (x *Probes) Dismiss(ctx context.Context, ch *bench.Change, jobID, id string) ([]Probe, error) {
	r, err := x.probe(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	if r.Order != nil && !x.away(id) {
		c := bench.Refuse(bench.Conflict, "The probe is measuring.")
		c.Kept, c.Do = "It continues.", "Cancel the round first."
		return nil, c
	}
	away := x.away(id)
	if err := x.change(ctx, ch, id, func(r *record) error {
		r.Leaving, r.LeavesAt, r.Gone = true, x.jobs.Now().Add(mind), away
		return nil
	}); err != nil {
		return nil, err
	}
	x.wake(id)
	x.tell(jobID)
	return x.Of(ctx, jobID)
}

// Stay undoes [Probes.Dismiss]. A probe that has already left has to join again.
func (x *Probes) Stay(ctx context.Context, ch *bench.Change, jobID, id string) ([]Probe, error) {
	err := x.change(ctx, ch, id, func(r *record) error {
		switch {
		case r.Job != jobID:
			return store.ErrNotFound
		case r.Gone && r.LeavesAt.IsZero():
			c := bench.Refuse(bench.Conflict, "The probe has left.")
			c.Kept, c.Do = "What it measured is kept.", "Let it join again with a new code."
			return c
		}
		r.Leaving, r.LeavesAt, r.Gone = false, time.Time{}, false
		return nil
	})
	if errors.Is(err, store.ErrNotFound) {
		return nil, bench.Refuse(bench.Missing, "There is no such probe in this job.")
	}
	if err != nil {
		return nil, err
	}
	x.tell(jobID)
	return x.Of(ctx, jobID)
}

// Refresh lets a probe send its computer's facts again.
func (x *Probes) Refresh(ctx context.Context, jobID, id string) ([]Probe, error) {
	if _, err := x.probe(ctx, jobID, id); err != nil {
		return nil, err
	}
	x.errand(id, order.Order{ID: bench.NewID(), Kind: order.Greet})
	return x.Of(ctx, jobID)
}

// Sides are the facts that a job's probes sent, by the setup of their computer then; including probes that have
// left.
func (x *Probes) Sides(ctx context.Context, jobID string) (map[string]Reported, error) {
	rows, err := x.store.Probes(ctx, jobID, true)
	if err != nil {
		return nil, err
	}
	all := map[string]Reported{}
	for _, p := range rows {
		r, err := read(p)
		if err != nil {
			return nil, err
		}
		for setup, t := range r.Sides {
			if t.At.After(all[setup].At) {
				all[setup] = t
			}
		}
	}
	return all, nil
}

// Weigh lets a probe find the largest folders of the drive under test; it sends them later.
func (x *Probes) Weigh(ctx context.Context, jobID, id string) ([]Probe, error) {
	r, j, err := x.with(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	switch at := x.shown(j, r); {
	case at.Away:
		return nil, awayRefusal()
	case r.Order != nil:
		return nil, bench.Refuse(bench.Conflict, "The probe is measuring. Try again when it has finished.")
	case at.Mount == "":
		return nil, bench.Refuse(bench.Conflict, "The probe sees no folder on the drive under test.")
	default:
		x.errand(id, order.Order{ID: bench.NewID(), Kind: order.Weigh, Dir: at.Mount})
	}
	return x.Of(ctx, jobID)
}

// Heaviest takes the largest folders from a probe.
func (x *Probes) Heaviest(ctx context.Context, id string, w order.Weighed) error {
	if err := w.Check(); err != nil {
		return bench.Because(bench.Invalid, err)
	}
	jobID := ""
	if err := x.change(ctx, nil, id, func(r *record) error {
		jobID = r.Job
		s, err := x.jobs.Load(ctx, r.Job)
		if err != nil {
			return err
		}
		setup := match.SetupOf(&r.Facts, s.Job)
		if setup == nil {
			return nil // another drive is in it by now
		}
		r.weigh(setup.ID, w, x.jobs.Now())
		return nil
	}); err != nil {
		return err
	}
	x.tell(jobID)
	return nil
}

// Folders are the largest folders of a job's computer, by the setup whose drive they are on, as last sent.
func (x *Probes) Folders(ctx context.Context, jobID string) (map[string]Weighed, error) {
	rows, err := x.store.Probes(ctx, jobID, true)
	if err != nil {
		return nil, err
	}
	all := map[string]Weighed{}
	for _, p := range rows {
		r, err := read(p)
		if err != nil {
			return nil, err
		}
		for setup, w := range r.Weighed {
			if w.At.After(all[setup].At) {
				all[setup] = w
			}
		}
	}
	return all, nil
}

// Left stores that a probe has left.
func (x *Probes) Left(ctx context.Context, id string) error {
	jobID := ""
	if err := x.change(ctx, nil, id, func(r *record) error {
		r.Leaving, r.LeavesAt, r.Gone, jobID = true, time.Time{}, true, r.Job
		return nil
	}); err != nil {
		return err
	}
	x.tell(jobID)
	return nil
}

// Do performs an action on a simulated computer.
func (x *Probes) Do(ctx context.Context, jobID, id, what string) ([]Probe, error) {
	r, err := x.probe(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	switch {
	case r.Simulated == "":
		return nil, bench.Refuse(bench.Conflict, "This is a real computer. Only you can do that.")
	case !slices.Contains(order.Doings, what):
		return nil, bench.Refuse(bench.Invalid, "%q can't be done to a simulated computer.", what)
	case what == order.Swap && r.Order != nil:
		c := bench.Refuse(bench.Conflict, "The probe is measuring.")
		c.Do = "Wait, or cancel the round first."
		return nil, c
	}
	x.errand(id, order.Order{ID: bench.NewID(), Kind: order.Simulate, Do: what})
	return x.Of(ctx, jobID)
}

func (x *Probes) errand(id string, o order.Order) {
	x.mu.Lock()
	l := x.alive(id)
	l.errands = append(l.errands, o)
	x.mu.Unlock()
	x.wake(id)
}
