// Package planning changes what a job measures: templates, tests, how often the customer does
// each task, and why a test can't be done.
//
// It must not import HTTP, screens or other use cases.
package planning

import (
	"context"
	"sync"

	"nowthen/bench"
)

// Store is the part of the store that planning uses.
type Store interface {
	Templates(ctx context.Context) ([][]byte, error)
	Setting(ctx context.Context, name string) (string, error)
}

// Plans changes plans and keeps the shop's templates.
type Plans struct {
	jobs  *bench.Jobs
	store Store

	mu   sync.Mutex
	undo map[string]chosen // by job: the last choice of a template, which can be taken back
}

// New returns the plans of a bench.
func New(jobs *bench.Jobs, s Store) *Plans {
	return &Plans{jobs: jobs, store: s, undo: map[string]chosen{}}
}
