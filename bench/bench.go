// Package bench holds what all use cases of a technician's bench share: loading
// and changing a job, its revisions, telling those who listen, and saying why
// something was refused. The use cases themselves are the packages below it, each
// with a type that holds only what it needs.
//
// It knows nothing of HTTP or screens, and must not import them. Whatever happens
// is told ([Jobs.Listen]) after it is on disk, never before.
package bench

import (
	"context"
	"log/slog"
	"sync"

	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/store"
)

// Store is what the bench needs of a store of jobs.
type Store interface {
	Write(ctx context.Context, do func(context.Context) error) error
	Job(ctx context.Context, id string) (*job.Job, int64, error)
	Revision(ctx context.Context, id string) (int64, error)
	Save(ctx context.Context, id string, before, after *job.Job) (int64, error)
}

// Jobs loads and changes the jobs of a shop and tells what happened to them.
type Jobs struct {
	*Clock
	store Store
	log   *slog.Logger
	hub   hub

	mu    sync.Mutex
	held  map[string]*Snapshot // jobs that were looked at lately
	order []string             // of held, the latest last
}

// held jobs are at most so many; a job of ten thousand runs takes some 15 MB.
const maxHeld = 24

// New returns the jobs of a store. A nil clock shows the time of day, a nil log
// goes nowhere.
func New(s Store, clock *Clock, log *slog.Logger) *Jobs {
	if clock == nil {
		clock = NewClock(0)
	}
	if log == nil {
		log = slog.New(slog.DiscardHandler)
	}
	return &Jobs{Clock: clock, store: s, log: log, held: map[string]*Snapshot{}}
}

// Load returns a job as it is. What it returns is shared and must not be changed.
func (b *Jobs) Load(ctx context.Context, id string) (*Snapshot, error) {
	revision, err := b.store.Revision(ctx, id)
	if err != nil {
		return nil, Found(err)
	}
	if s := b.holding(id, revision); s != nil {
		return s, nil
	}
	j, revision, err := b.store.Job(ctx, id)
	if err != nil {
		return nil, Found(err)
	}
	s := &Snapshot{ID: id, Revision: revision, Job: j}
	store.AfterCommit(ctx, func() { b.hold(s) }) // a change that it is within may fail yet
	return s, nil
}

// holding returns the held job where it is of that revision: another program may
// have changed it.
func (b *Jobs) holding(id string, revision int64) *Snapshot {
	b.mu.Lock()
	defer b.mu.Unlock()
	if s := b.held[id]; s != nil && s.Revision == revision {
		return s
	}
	return nil
}

func (b *Jobs) hold(s *Snapshot) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if old := b.held[s.ID]; old != nil && old.Revision > s.Revision {
		return
	} else if old == nil {
		b.order = append(b.order, s.ID)
	}
	b.held[s.ID] = s
	if len(b.order) > maxHeld {
		delete(b.held, b.order[0])
		b.order = b.order[1:]
	}
}

// ifMatchKey is where a context carries the revision that a change is meant for.
type ifMatchKey struct{}

// IfMatch returns a context under which a job is changed only while it has that
// revision.
func IfMatch(ctx context.Context, revision int64) context.Context {
	return context.WithValue(ctx, ifMatchKey{}, revision)
}

// expected refuses what is meant for another revision.
func (s *Snapshot) expected(ctx context.Context) error {
	if want, ok := ctx.Value(ifMatchKey{}).(int64); !ok || want == s.Revision {
		return nil
	}
	return &Refusal{Kind: Stale, Message: message.Tell("the-job-was-changed"), Kept: message.Tell("it-is-as-the"),
		Do: message.Tell("look-at-how-it"), Current: s.View()}
}

// Expect returns a job where it has the revision that the context wants.
func (b *Jobs) Expect(ctx context.Context, id string) (*Snapshot, error) {
	s, err := b.Load(ctx, id)
	if err != nil {
		return nil, err
	}
	return s, s.expected(ctx)
}

// Change changes a job and tells those who listen. change is given the job to alter,
// and a context under which what it stores beside stands or falls with the change.
func (b *Jobs) Change(ctx context.Context, id string,
	change func(ctx context.Context, j *job.Job) error) (*View, error) {
	var s *Snapshot
	err := b.store.Write(ctx, func(ctx context.Context) error {
		before, err := b.Load(ctx, id)
		if err != nil {
			return err
		}
		if err := before.expected(ctx); err != nil {
			return err
		}
		after := before.Job.Clone()
		store.Made(ctx, "jobs/"+id) // unless something that can be found by itself is made
		if err := change(ctx, after); err != nil {
			return err
		}
		after.SettleFacts(b.Now())
		revision, err := b.store.Save(ctx, id, before.Job, after)
		if err != nil {
			return err
		}
		if part := made(before.Job, after); part != "" {
			store.Made(ctx, "jobs/"+id+part)
		}
		s = before.next(revision, after)
		// The next change finds it: it would have to read the whole job again.
		store.AfterCommit(ctx, func() { b.hold(s) })
		return nil
	})
	if err != nil {
		return nil, Found(err)
	}
	b.Tell(Event{Type: JobEvent, Job: id})
	return s.View(), nil
}

// made is what of a job a change has made: the path below the job's, "" where it made
// nothing that has one.
func made(before, after *job.Job) string {
	switch n := len(after.Runs); {
	case n > len(before.Runs):
		return "/runs/" + after.Runs[n-1].ID
	case len(after.Sittings) > len(before.Sittings):
		return "/sittings/" + after.Sittings[len(after.Sittings)-1].ID
	case len(after.Setups) > len(before.Setups):
		return "/setups/" + after.Setups[len(after.Setups)-1].ID
	case len(after.Tests) > len(before.Tests):
		return "/tests/" + after.Tests[len(after.Tests)-1].ID
	case len(after.Plan.Steps) > len(before.Plan.Steps):
		return "/steps/" + after.Plan.Steps[len(after.Plan.Steps)-1].ID
	}
	return ""
}

// Add stores a new job, which make makes within the change.
func (b *Jobs) Add(ctx context.Context, make func(ctx context.Context) (*job.Job, error)) (*View, error) {
	return b.AddWith(ctx, make, func(context.Context, string) error { return nil })
}

// AddWith is Add with what is stored beside the job once it is there.
func (b *Jobs) AddWith(ctx context.Context, make func(ctx context.Context) (*job.Job, error),
	beside func(ctx context.Context, id string) error) (*View, error) {
	s := &Snapshot{ID: NewID()}
	err := b.store.Write(ctx, func(ctx context.Context) (err error) {
		if s.Job, err = make(ctx); err != nil {
			return err
		}
		store.Made(ctx, "jobs/"+s.ID)
		if s.Revision, err = b.store.Save(ctx, s.ID, nil, s.Job); err != nil {
			return err
		}
		store.AfterCommit(ctx, func() { b.hold(s) })
		return beside(ctx, s.ID)
	})
	if err != nil {
		return nil, err
	}
	b.Tell(Event{Type: JobEvent, Job: s.ID})
	return s.View(), nil
}

// Write makes changes beside jobs that stand together.
func (b *Jobs) Write(ctx context.Context, do func(context.Context) error) error {
	return b.store.Write(ctx, do)
}

// View returns a job with what follows from it.
func (b *Jobs) View(ctx context.Context, id string) (*View, error) {
	s, err := b.Load(ctx, id)
	if err != nil {
		return nil, err
	}
	return s.View(), nil
}
