package bench

import (
	"context"
	"slices"
	"strings"
	"sync"

	"nowthen/core/plan"
	"nowthen/store"
)

// Board is what the bench page shows: the jobs that a search finds, and over
// all open jobs the one most useful thing to do.
type Board struct {
	Cards []Card `json:"cards"`
	Total int    `json:"total"` // how many the search finds; Cards may be fewer
	// Hands needs a person, Itself runs by itself once it is begun; nil: nothing.
	Hands  *Card `json:"hands"`
	Itself *Card `json:"itself"`
	// Measuring is what is being measured now, or nil.
	Measuring *Measuring `json:"measuring"`
}

// maxCards bounds what one answer holds.
const maxCards = 500

// cards remembers the card of every job at its last change, so that a bench
// page with many jobs need not read them all. The jobs themselves are the
// truth: a card of another revision is made anew.
type cards struct {
	mu   sync.Mutex
	made map[string]remembered
}

type remembered struct {
	revision int64
	card     Card
}

// of returns the cards of jobs in their order.
func (c *cards) of(ctx context.Context, s *store.Store, found []store.Found) ([]Card, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.made == nil {
		c.made = map[string]remembered{}
	}
	revisions := make(map[string]int64, len(found))
	var stale []string
	for _, f := range found {
		if m, ok := c.made[f.ID]; !ok || m.revision != f.Revision {
			stale = append(stale, f.ID)
			revisions[f.ID] = f.Revision
		}
	}
	for part := range slices.Chunk(stale, 100) { // whole jobs are large; a few at a time
		jobs, err := s.Jobs(ctx, part)
		if err != nil {
			return nil, err
		}
		for _, e := range jobs {
			c.made[e.ID] = remembered{revisions[e.ID], card(e.ID, e.Job)}
		}
	}
	list := make([]Card, 0, len(found))
	for _, f := range found {
		if m, ok := c.made[f.ID]; ok {
			list = append(list, m.card)
		}
	}
	return list, nil
}

// Board returns the jobs in a state that a search finds, the newest first.
func (b *Bench) Board(ctx context.Context, state, query string) (*Board, error) {
	switch state {
	case "":
		state = store.OpenJobs
	case store.OpenJobs, store.FinishedJobs, store.AllJobs:
	default:
		return nil, invalid("There is no state %q; there are open, finished and all.", state)
	}
	found, total, err := b.store.Search(ctx, state, strings.Fields(query), maxCards)
	if err != nil {
		return nil, err
	}
	out := &Board{Total: total}
	if out.Cards, err = b.cards.of(ctx, b.store, found); err != nil {
		return nil, err
	}
	open, _, err := b.store.Search(ctx, store.OpenJobs, nil, 0)
	if err != nil {
		return nil, err
	}
	all, err := b.cards.of(ctx, b.store, open)
	if err != nil {
		return nil, err
	}
	nexts := make([]plan.Next, len(all))
	for i, c := range all {
		nexts[i] = c.Next
	}
	choice := plan.Choose(nexts)
	if choice.Hands >= 0 {
		out.Hands = &all[choice.Hands]
	}
	if choice.Itself >= 0 {
		out.Itself = &all[choice.Itself]
	}
	b.mu.Lock()
	r := b.active
	b.mu.Unlock()
	if r != nil {
		out.Measuring = r.snapshot()
	}
	return out, nil
}
