package bench

import (
	"context"

	"nowthen/core/job"
	"nowthen/store"
)

// Change is a change that somebody asks for: the command that it is, so that a repeat is told from a new one, and the
// revision of the job that it is meant for. Within [Jobs.Write] and [Jobs.ChangeWith] it is under way, and what is
// stored by its Tx stands or falls together. nil is a change of the bench's own, for any revision.
type Change struct {
	// Tx is what the change stores by; nil before it is under way.
	Tx *store.Tx

	command  *store.Command
	revision *int64
}

// NewChange returns a change that is a command's, nil for none, and that is made only to that
// revision of a job, nil for
// any.
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

// Beside is a change that is no part of the command: what must be on disk before it is clear whether the command is
// done.
func (c *Change) Beside() *Change {
	if c == nil {
		return nil
	}
	return &Change{revision: c.revision}
}

// Made says within a change the path of what it makes, below the root of all resources.
func (c *Change) Made(path string) { c.Tx.Made(path) }

// Answer says within a change what it answers; see [store.Tx.Answer].
func (c *Change) Answer(v any) { c.Tx.Answer(v) }

// under reports whether the change is under way.
func (c *Change) under() bool { return c != nil && c.Tx != nil }

// expects refuses a snapshot of another revision than the change is meant for.
func (c *Change) expects(s *Snapshot) error {
	if c == nil || c.revision == nil || *c.revision == s.Revision {
		return nil
	}
	return &Refusal{Kind: Stale, Message: "The job was changed in the meantime, on another device or page.",
		Kept: "The other change is kept.",
		Do:   "Check the current values, then change them again.", Current: s.View()}
}

// Write makes changes that stand together, also beside jobs. One that is under way takes them into itself.
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

// Expect returns a job where it has the revision that the change is meant for.
func (b *Jobs) Expect(ctx context.Context, ch *Change, id string) (*Snapshot, error) {
	s, err := b.Load(ctx, id)
	if err != nil {
		return nil, err
	}
	return s, ch.expects(s)
}

// Change changes a job, which change is given to alter, and tells those who listen.
func (b *Jobs) Change(ctx context.Context, ch *Change, id string, change func(j *job.Job) error) (*View, error) {
	return b.ChangeWith(ctx, ch, id, func(_ *Change, j *job.Job) error { return change(j) })
}

// ChangeWith is Change with what is stored beside the job, by the Tx of the change.
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
		// The next change finds it: it would have to read the whole job again.
		ch.Tx.After(func() { b.hold(s) })
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
func (b *Jobs) Add(ctx context.Context, ch *Change, make func(ch *Change) (*job.Job, error)) (*View, error) {
	return b.AddWith(ctx, ch, make, func(*Change, string) error { return nil })
}

// AddWith is Add with what is stored beside the job once it is there.
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
