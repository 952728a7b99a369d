package swap

import (
	"context"
	"errors"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/manifest"
	"nowthen/core/order"
	"nowthen/store"
)

// Carry stores the comparison of the old drive's manifest with the new drive: how many files came across, not
// which. It replaces an earlier one.
func (x *Swap) Carry(ctx context.Context, ch *bench.Change, jobID string, in manifest.Difference) (*bench.View, error) {
	n := in.Counts
	c := &job.Carried{At: x.jobs.Now(), Files: in.Files, Bytes: in.Bytes, Unchanged: in.Unchanged, Missing: n.Missing,
		Changed: n.Changed, New: n.New,
		UnreadableBefore: n.UnreadableBefore, UnreadableNow: n.UnreadableNow}
	f := bench.Fields{}
	for name, v := range map[string]int{"files": c.Files, "unchanged": c.Unchanged, "counts.missing": c.Missing,
		"counts.changed": c.Changed, "counts.new": c.New,
		"counts.unreadable_before": c.UnreadableBefore, "counts.unreadable_now": c.UnreadableNow} {
		f.Check(v >= 0, name, "Enter a whole number from 0.")
	}
	f.Check(c.Bytes >= 0, "bytes", "Enter a whole number from 0.")
	f.Check(c.Unchanged+c.Missing+c.Changed+c.UnreadableNow <= c.Files, "files",
		"The counts don’t add up. Import the output of nowthen-probe manifest --against unchanged.")
	// Lists are bounded, counts aren't; a count smaller than its list can't be from the probe.
	for name, list := range map[string][2]int{"missing": {len(in.Missing), n.Missing},
		"changed": {len(in.Changed), n.Changed}, "new": {len(in.New), n.New},
		"unreadable_before": {len(in.UnreadableBefore), n.UnreadableBefore}, "unreadable_now": {len(in.UnreadableNow),
			n.UnreadableNow}} {
		f.Check(list[0] <= list[1], name,
			"The counts don’t add up. Import the output of nowthen-probe manifest --against unchanged.")
	}
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	some := func(list []string) []string { return append([]string{}, list...) }
	lists := Lists{Missing: some(in.Missing), Changed: some(in.Changed), New: some(in.New),
		UnreadableBefore: some(in.UnreadableBefore), UnreadableNow: some(in.UnreadableNow), Counts: n,
		Until: x.jobs.Now().Add(listsKept)}
	body, err := json.Marshal(lists)
	if err != nil {
		return nil, err
	}
	if err := x.Recover(ctx); err != nil {
		return nil, err
	}
	return x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		if before := j.Head.Carried; before != nil {
			c.Unknown = before.Unknown
		}
		j.Head.Carried = c
		return ch.Tx.KeepLists(ctx, jobID, lists.Until, body)
	})
}

// Listed keeps the list of the files of a job's old drive that a probe was asked for. It replaces an earlier one; a repeat
// changes nothing.
func (x *Swap) Listed(ctx context.Context, probe string, in order.FileList) error {
	if err := in.Check(); err != nil {
		return bench.Because(bench.Invalid, err)
	}
	jobID, simulated, err := x.probes.Reads(ctx, probe, in.Order)
	if err != nil {
		return err
	}
	told, err := json.Marshal(FilesListed{Folder: in.Folder, Files: in.Files, Bytes: in.Bytes, Unreadable: in.Unreadable,
		Simulated: simulated != "", At: x.jobs.Now()})
	if err != nil {
		return err
	}
	return x.jobs.Write(ctx, nil, func(ch *bench.Change) error {
		return ch.Tx.KeepFileList(ctx, jobID, x.jobs.Now().Add(listsKept), told, in.List)
	})
}

// List returns the list of the files of a job's old drive, for its probes.
func (x *Swap) List(ctx context.Context, jobID string) (*order.FileList, error) {
	told, list, err := x.store.FileList(ctx, jobID, x.jobs.Now())
	if errors.Is(err, store.ErrNotFound) {
		c := bench.Refuse(bench.Conflict, "The files of the old drive are not listed.")
		c.Do = "List them first."
		return nil, c
	}
	if err != nil {
		return nil, err
	}
	l := &order.FileList{}
	if err := json.Unmarshal(told, l); err != nil {
		return nil, err
	}
	l.List = list
	return l, nil
}

// Compared stores a probe's comparison of the list with the new drive.
func (x *Swap) Compared(ctx context.Context, probe string, in order.Compared) error {
	jobID, _, err := x.probes.Reads(ctx, probe, in.Order)
	if err != nil {
		return err
	}
	_, err = x.Carry(ctx, nil, jobID, in.Difference)
	return err
}

// FilesListed is what is told of the list of the files of the old drive.
type FilesListed struct {
	Folder     string    `json:"folder"`
	Files      int       `json:"files"`
	Bytes      int64     `json:"bytes"`
	Unreadable int       `json:"unreadable"`
	Simulated  bool      `json:"simulated"`
	At         time.Time `json:"at"`
	Until      time.Time `json:"until"` // when the list is deleted
}

// filesListed returns what is told of a job's list; nil if there is none.
func (x *Swap) filesListed(ctx context.Context, jobID string) (*FilesListed, error) {
	told, until, err := x.store.ToldFileList(ctx, jobID, x.jobs.Now())
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	l := &FilesListed{}
	err = json.Unmarshal(told, l)
	l.Until = until
	return l, err
}

// listsKept is how long the names behind the counts are kept, for a customer who asks for a file. They are
// private and stay in the shop: no report, export or job file contains them.
const listsKept = 90 * 24 * time.Hour

// Lists are the file names behind the counts of what came across; each list is bounded.
type Lists struct {
	Until            time.Time       `json:"until"` // when they are deleted
	Missing          []string        `json:"missing"`
	Changed          []string        `json:"changed"`
	New              []string        `json:"new"`
	UnreadableBefore []string        `json:"unreadable_before"`
	UnreadableNow    []string        `json:"unreadable_now"`
	Counts           manifest.Counts `json:"counts"`
}

// lists returns the lists of a job; nil if there are none. Expired lists are deleted first.
func (x *Swap) lists(ctx context.Context, jobID string) (*Lists, error) {
	if err := x.Recover(ctx); err != nil {
		return nil, err
	}
	body, _, err := x.store.Lists(ctx, jobID, x.jobs.Now())
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	l := &Lists{}
	return l, json.Unmarshal(body, l)
}
