package bench

import (
	"context"

	"nowthen/core/job"
	"nowthen/store"
)

// Change is a requested change: its command, which tells a repeat from a new one, and the revision of the job
// it is meant for. Within [Jobs.Write] and [Jobs.ChangeWith] it has a transaction, and everything stored
// through its Tx is committed together or not at all. nil is a change by the bench itself, for any revision.
type Change struct {
	// Tx is the change's transaction; nil before it begins.
	Tx *store.Tx

	command  *store.Command
	revision *int64
}

// NewChange returns the change of a command (nil for none) that applies only to that revision of a job (nil for
// any).
func NewChange(command *store.Command, revision *int64) *Change {
	return &Change{command: command, revision: revision}
}

// Command is the command that the change is, or nil.
func (c *Change) Command() *store.Command {
	if c == nil {
		return nil
	}
	return c.command
}

// Beside is a change apart from the command: it must be on disk before the command's outcome is known.
func (c *Change) Beside() *Change {
	if c == nil {
		return nil
	}
	return &Change{revision: c.revision}
}

// Made sets the path of the resource that the change creates, relative to the root of the API.
func (c *Change) Made(path string) { c.Tx.Made(path) }

// Answer sets the answer of the change; see [store.Tx.Answer].
func (c *Change) Answer(v any) { c.Tx.Answer(v) }

// under reports whether the change has a transaction.
func (c *Change) under() bool { return c != nil && c.Tx != nil }

// expects refuses a snapshot if its revision isn't the one the change is meant for.
func (c *Change) expects(s *Snapshot) error {
	if c == nil || c.revision == nil || *c.revision == s.Revision {
		return nil
	}
	return &Refusal{Kind: Stale, Message: "The job was changed in the meantime, on another device or page.",
		Kept: "The other change is kept.",
		Do:   "Check the current values, then change them again.", Current: s.View()}
}

// Write runs do in one transaction, also for data beside jobs. If the change already has a transaction, do runs in it.
func (b *Jobs) Write(ctx context.Context, ch *Change, do func(ch *Change) error) error {
	if ch.under() {
		return do(ch)
	}
	return b.store.Write(ctx, ch.Command(), func(tx *store.Tx) error {
		within := &Change{Tx: tx}
		if ch != nil {
			within.command, within.revision = ch.command, ch.revision
		}
		return do(within)
	})
}

// Expect returns a job if it has the revision that the change is meant for.
func (b *Jobs) Expect(ctx context.Context, ch *Change, id string) (*Snapshot, error) {
	s, err := b.Load(ctx, id)
	if err != nil {
		return nil, err
	}
	return s, ch.expects(s)
}

// Change lets change alter a job, stores it, and notifies the listeners.
func (b *Jobs) Change(ctx context.Context, ch *Change, id string, change func(j *job.Job) error) (*View, error) {
	return b.ChangeWith(ctx, ch, id, func(_ *Change, j *job.Job) error { return change(j) })
}

// ChangeWith is Change with data stored beside the job, through the change's Tx.
func (b *Jobs) ChangeWith(ctx context.Context, ch *Change, id string,
	change func(ch *Change, j *job.Job) error) (*View, error) {
	var s *Snapshot
	err := b.Write(ctx, ch, func(ch *Change) error {
		before, err := b.load(ctx, ch.Tx, id)
		if err != nil {
			return err
		}
		if err := ch.expects(before); err != nil {
			return err
		}
		after := before.Job.Clone()
		ch.Made("jobs/" + id) // unless something that can be found by itself is made
		if err := change(ch, after); err != nil {
			return err
		}
		after.SettleFacts(b.Now())
		revision, err := ch.Tx.Save(ctx, id, before.Job, after)
		if err != nil {
			return err
		}
		if part := made(before.Job, after); part != "" {
			ch.Made("jobs/" + id + part)
		}
		s = before.next(revision, after)
		// The next change finds it in memory instead of reading the whole job again.
		ch.Tx.After(func() { b.hold(s) })
		return nil
	})
	if err != nil {
		return nil, Found(err)
	}
	b.Tell(Event{Type: JobEvent, Job: id})
	return s.View(), nil
}

// made is the path of the part of a job that a change created, relative to the job; "" if it created none.
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
func (b *Jobs) Add(ctx context.Context, ch *Change, make func(ch *Change) (*job.Job, error)) (*View, error) {
	return b.AddWith(ctx, ch, make, func(*Change, string) error { return nil })
}

// AddWith is Add with data stored beside the new job.
func (b *Jobs) AddWith(ctx context.Context, ch *Change, make func(ch *Change) (*job.Job, error),
	beside func(ch *Change, id string) error) (*View, error) {
	s := &Snapshot{ID: NewID()}
	err := b.Write(ctx, ch, func(ch *Change) (err error) {
		if s.Job, err = make(ch); err != nil {
			return err
		}
		ch.Made("jobs/" + s.ID)
		if s.Revision, err = ch.Tx.Save(ctx, s.ID, nil, s.Job); err != nil {
			return err
		}
		ch.Tx.After(func() { b.hold(s) })
		return beside(ch, s.ID)
	})
	if err != nil {
		return nil, err
	}
	b.Tell(Event{Type: JobEvent, Job: s.ID})
	return s.View(), nil
}
