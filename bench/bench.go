// Package bench holds what all use cases share: loading and changing a job, its revisions,
// notifying listeners, and refusals with their reasons. The use cases are the packages below
// it, each with a type that holds only its own dependencies.
//
// It knows nothing of HTTP or screens, and must not import them. Listeners ([Jobs.Listen]) are
// notified of a change after it is on disk, never before.
package bench

import (
	"context"
	"log/slog"
	"sync"

	"nowthen/store"
)

// Jobs loads and changes the jobs of a shop and reports what happened to them.
type Jobs struct {
	*Clock
	store *store.Store
	log   *slog.Logger
	hub   hub

	mu    sync.Mutex
	held  map[string]*Snapshot // jobs that were looked at lately
	order []string             // of held, the latest last
}

// held is how many jobs are kept in memory at most; a job of ten thousand runs takes about 15 MB.
const maxHeld = 24

// New returns the jobs of a store. A nil clock is the time of day; a nil log discards everything.
func New(s *store.Store, clock *Clock, log *slog.Logger) *Jobs {
	if clock == nil {
		clock = NewClock(0)
	}
	if log == nil {
		log = slog.New(slog.DiscardHandler)
	}
	return &Jobs{Clock: clock, store: s, log: log, held: map[string]*Snapshot{}}
}

// Load returns a job's current snapshot. It is shared and must not be changed.
func (b *Jobs) Load(ctx context.Context, id string) (*Snapshot, error) {
	return b.load(ctx, &b.store.Tx, id)
}

func (b *Jobs) load(ctx context.Context, tx *store.Tx, id string) (*Snapshot, error) {
	revision, err := tx.Revision(ctx, id)
	if err != nil {
		return nil, Found(err)
	}
	if s := b.holding(id, revision); s != nil {
		return s, nil
	}
	j, revision, err := tx.Job(ctx, id)
	if err != nil {
		return nil, Found(err)
	}
	s := &Snapshot{ID: id, Revision: revision, Job: j}
	tx.After(func() { b.hold(s) }) // a change that it is within may fail yet
	return s, nil
}

// holding returns the job kept in memory if it is of that revision; another program may have changed it.
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

// View returns a job with everything derived from it.
func (b *Jobs) View(ctx context.Context, id string) (*View, error) {
	s, err := b.Load(ctx, id)
	if err != nil {
		return nil, err
	}
	return s.View(), nil
}
