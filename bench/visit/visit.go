// Package visit takes a job from intake to hand-back: opening it, the docket, the steps, other
// work, the drives, the gates, and the page of all jobs.
//
// It must not import HTTP or screens. Of the other use cases it knows only planning.
package visit

import (
	"context"

	"nowthen/bench"
	"nowthen/bench/planning"
	"nowthen/core/job"
	"nowthen/store"
)

// Store is the part of the store that visits use.
type Store interface {
	Setting(ctx context.Context, name string) (string, error)
	Search(ctx context.Context, by store.Search) (found []store.Found, total int, next string, err error)
	Outlines(ctx context.Context, ids []string) ([]store.Outline, []store.Damaged, error)
	Others(ctx context.Context, by store.Search, but string) ([]store.Outline, error)
	Traces(ctx context.Context, jobID string, runs ...string) (map[string]job.Trace, error)
}

// Visits opens jobs and takes them to hand-back.
type Visits struct {
	jobs  *bench.Jobs
	plans *planning.Plans
	store Store
	unfit Unfit
	cards cards
}

// Unfit returns the failed checks at a gate of a job, one line each.
type Unfit func(ctx context.Context, jobID string, gate job.GateName) ([]string, error)

// New returns the visits of a bench.
func New(jobs *bench.Jobs, plans *planning.Plans, s Store, unfit Unfit) *Visits {
	return &Visits{jobs: jobs, plans: plans, store: s, unfit: unfit, cards: cards{made: map[string]remembered{}}}
}
