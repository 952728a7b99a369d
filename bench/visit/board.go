package visit

import (
	"context"
	"errors"
	"slices"
	"strings"
	"sync"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/words"
	"nowthen/store"
)

// Board is the start page: the jobs that a search finds, and the most useful next step over all open jobs.
type Board struct {
	Cards []Card `json:"cards"`
	Total int    `json:"total"` // how many the search finds; Cards may be fewer
	// Next is the cursor of the next page, "" at the end.
	Next string `json:"next"`
	// Hands is a step that needs a person, Itself one that runs unattended; nil: nothing.
	Hands  *Card `json:"hands"`
	Itself *Card `json:"itself"`
	// Damaged are the jobs found, and the open jobs, that can't be read; they have no card.
	Damaged []store.Damaged `json:"damaged"`
}

// maxCards is the most cards in one answer.
const maxCards = 500

// cards caches the card of every job at its last change, to avoid reading all jobs for the start page. A card
// of another revision is computed again.
type cards struct {
	mu   sync.Mutex
	made map[string]remembered
}

type remembered struct {
	revision int64
	card     Card
	damaged  *store.Damaged // in the card's place
}

// of returns the cards of jobs in order, and the jobs that can't be read.
func (c *cards) of(ctx context.Context, s Store, found []store.Found) ([]Card, []store.Damaged, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	revisions := make(map[string]int64, len(found))
	var stale []string
	for _, f := range found {
		if m, ok := c.made[f.ID]; !ok || m.revision != f.Revision {
			stale = append(stale, f.ID)
			revisions[f.ID] = f.Revision
		}
	}
	outlines, broken, err := s.Outlines(ctx, stale)
	if err != nil {
		return nil, nil, err
	}
	for _, o := range outlines {
		c.made[o.ID] = remembered{revision: revisions[o.ID], card: card(o)}
	}
	for i := range broken {
		c.made[broken[i].ID] = remembered{revision: revisions[broken[i].ID], damaged: &broken[i]}
	}
	list, damaged := make([]Card, 0, len(found)), []store.Damaged{}
	for _, f := range found {
		if m, ok := c.made[f.ID]; !ok {
			continue
		} else if m.damaged != nil {
			damaged = append(damaged, *m.damaged)
		} else {
			list = append(list, m.card)
		}
	}
	return list, damaged, nil
}

// Ask selects the jobs of a board.
type Ask struct {
	State string // open (where nothing is said), finished or all
	Query string
	After string // the cursor of an earlier board
	Limit int    // at most so many; 0 is as many as one answer holds
}

// Board returns the jobs in a state that match a search, newest first.
func (x *Visits) Board(ctx context.Context, ask Ask) (*Board, error) {
	switch ask.State {
	case "":
		ask.State = store.OpenJobs
	case store.OpenJobs, store.FinishedJobs, store.AllJobs, store.BinnedJobs:
	default:
		return nil, bench.Refuse(bench.Invalid, "There is no state %q; choose open, finished or all.", ask.State)
	}
	if ask.Limit <= 0 || ask.Limit > maxCards {
		ask.Limit = maxCards
	}
	found, total, next, err := x.store.Search(ctx,
		store.Search{State: ask.State, Words: strings.Fields(ask.Query), After: ask.After, Limit: ask.Limit})
	if errors.Is(err, store.ErrCursor) {
		return nil, bench.Because(bench.Invalid, err)
	}
	if err != nil {
		return nil, err
	}
	out := &Board{Total: total, Next: next}
	if out.Cards, out.Damaged, err = x.cards.of(ctx, x.store, found); err != nil {
		return nil, err
	}
	open, _, _, err := x.store.Search(ctx, store.Search{State: store.OpenJobs})
	if err != nil {
		return nil, err
	}
	all, damaged, err := x.cards.of(ctx, x.store, open)
	if err != nil {
		return nil, err
	}
	for _, d := range damaged {
		if !slices.ContainsFunc(out.Damaged, func(known store.Damaged) bool { return known.ID == d.ID }) {
			out.Damaged = append(out.Damaged, d)
		}
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
	return out, nil
}

// Card is a job on the start page.
type Card struct {
	Kind      job.JobKind    `json:"kind"` // upgrade, comparison or check-up
	ID        string         `json:"id"`
	Number    string         `json:"number"`
	Opened    time.Time      `json:"opened"`
	Customer  string         `json:"customer"`
	Computer  string         `json:"computer"`
	OldDrive  string         `json:"old_drive"`
	NewDrive  string         `json:"new_drive"`
	Reason    string         `json:"reason"`
	Simulated bool           `json:"simulated"`
	State     job.State      `json:"state"` // quoted, open or finished
	Here      string         `json:"here"`
	Page      string         `json:"page"`
	Track     []plan.Station `json:"track"`
	Next      plan.Next      `json:"next"`
	Since     time.Time      `json:"since"` // when something last happened in it
}

func card(o store.Outline) Card {
	j, st := o.Job, plan.Counted(o.Job, o.Counts)
	c := Card{ID: o.ID, Kind: j.Kind(), Number: j.Head.Number, Opened: j.Head.Opened, Customer: j.Head.Customer.Name,
		Reason:    j.Head.Reason,
		Simulated: j.Simulated(), State: j.State(), Here: st.Here(), Page: st.Page(), Track: st.Track(), Next: st.Next(), Since: j.Head.Opened}
	if len(j.Computers) > 0 {
		c.Computer = strings.TrimSpace(j.Computers[0].Maker + " " + j.Computers[0].Model)
	}
	driveOf := func(role job.Role) string {
		if s := j.SetupAs(role); s != nil {
			return words.DriveName(j.Drive(s.Drive))
		}
		return ""
	}
	c.OldDrive, c.NewDrive = driveOf(job.Then), driveOf(job.Now)
	if first := firstIn(j); first != nil && j.Kind() != job.KindUpgrade {
		c.OldDrive, c.NewDrive = words.DriveName(j.Drive(first.Drive)), ""
	}
	if o.LastRun.After(c.Since) {
		c.Since = o.LastRun
	}
	for _, g := range j.Head.Gates {
		if g.At.After(c.Since) {
			c.Since = g.At
		}
	}
	return c
}
