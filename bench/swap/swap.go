// Package swap covers the work between Then and Now, as far as the probe sees it: whether the
// data fits on the new drive, the layout of its partitions, and the checks once it is fitted.
//
// It must not import HTTP, screens or other use cases.
package swap

import (
	"context"
	"slices"
	"time"

	"nowthen/core/hardware/match"

	"nowthen/bench"
	"nowthen/bench/probes"
	"nowthen/core/checks"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/order"
	"nowthen/core/rescue"
	"nowthen/core/work"
	"nowthen/store"
)

// Heaviest are the largest folders, as a probe reported them.
type Heaviest struct {
	At      time.Time      `json:"at"`
	Bytes   int64          `json:"bytes"`
	Largest []order.Folder `json:"largest"`
	Refused string         `json:"refused"` // why it could not be looked
}

// Store is the part of the store that the swap uses.
type Store interface {
	Lists(ctx context.Context, jobID string, now time.Time) (body []byte, until time.Time, err error)
	ToldFileList(ctx context.Context, jobID string, now time.Time) (told []byte, until time.Time, err error)
	FileList(ctx context.Context, jobID string, now time.Time) (told, list []byte, err error)
	DropLists(ctx context.Context, now time.Time) (n int, err error)
	Photo(ctx context.Context, jobID, id string) (kind string, body []byte, err error)
	Model(ctx context.Context, maker, model string) ([]byte, error)
	Others(ctx context.Context, by store.Search, but string) ([]store.Outline, error)
}

// Swap handles the swap of a job.
type Swap struct {
	store  Store
	jobs   *bench.Jobs
	probes *probes.Probes
}

// New returns the swaps of a bench.
func New(jobs *bench.Jobs, s Store, p *probes.Probes) *Swap { return &Swap{s, jobs, p} }

// Recover deletes expired lists.
func (x *Swap) Recover(ctx context.Context) error {
	_, err := x.store.DropLists(ctx, x.jobs.Now())
	return err
}

// View is the swap of a job, as a page shows it.
type View struct {
	// Fit is how the old drive's partitions go onto the new one; nil if one of them isn't known, and Missing says
	// which.
	Fit     *Fit   `json:"fit"`
	Missing string `json:"missing"`
	// Checks are the checks of the fitted drive; empty before the probe has seen it.
	Checks []checks.Check `json:"checks"`
	// Checked is when the probe sent the facts they are based on; nil without checks.
	Checked *time.Time `json:"checked"`
	// Failing is why the old drive counts as failing, "" if it doesn't. If it is, the folders are in the order in
	// which to copy them.
	Failing string `json:"failing"`
	// Heaviest are the largest folders of the old drive; nil if not determined.
	Heaviest *Heaviest `json:"heaviest"`
	// Listed is the list of the old drive's files that a probe made; nil if there is none.
	Listed *FilesListed `json:"listed"`
	// Lists are the file names behind the counts of what came across; nil if none are kept.
	Lists *Lists `json:"lists"`
	// Work is the time spent on the visit's tasks.
	Work work.Summary `json:"work"`
}

// Of returns the swap of a job.
func (x *Swap) Of(ctx context.Context, jobID string) (*View, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	sides, err := x.probes.Sides(ctx, jobID)
	if err != nil {
		return nil, err
	}
	v := &View{Checks: []checks.Check{}}
	j := s.Job
	var earlier []job.Task
	if len(j.Head.Tasks) > 0 {
		if earlier, err = x.earlier(ctx, jobID); err != nil {
			return nil, err
		}
	}
	v.Work = work.Of(j, earlier, x.jobs.Now())
	if v.Listed, err = x.filesListed(ctx, jobID); err != nil {
		return nil, err
	}
	if v.Lists, err = x.lists(ctx, jobID); err != nil {
		return nil, err
	}
	then, now := j.SetupAs(job.Then), j.AsNow()
	before := told(sides, then)
	v.Fit, v.Missing = fit(j, then, now, before, x.jobs.Now())
	if then != nil {
		if before != nil {
			v.Failing = rescue.Failing(match.UnderTest(before, j, then))
		}
		if v.Heaviest, err = x.heaviest(ctx, jobID, then.ID, v.Failing != ""); err != nil {
			return nil, err
		}
	}
	if now == nil {
		return v, nil
	}
	seen := told(sides, now)
	if seen != nil {
		at := sides[now.ID].At
		v.Checks, v.Checked = checks.Of(j, now, before, seen), &at
	} else if before != nil {
		v.Checks = append(v.Checks, checks.Before(j, now, before)...)
	}
	v.Checks = append(v.Checks, checks.Noted(j, now, seen)...)
	byHand := checks.ByHand(j, now)
	if m, err := x.model(ctx, j.Computer(now.Computer)); err != nil {
		return nil, err
	} else if m != nil {
		for i := range byHand {
			c := &byHand[i]
			c.Earlier = slices.DeleteFunc(slices.Clone(m.Fixes[c.ID]), func(s string) bool { return s == c.Fix })
		}
	}
	v.Checks = append(v.Checks, byHand...)
	return v, nil
}

// Unfit returns the failed checks that matter at a gate, one line each.
func (x *Swap) Unfit(ctx context.Context, jobID string, gate job.GateName) ([]string, error) {
	if gate != job.GateCaseClosed && gate != job.GateHandedBack {
		return nil, nil // no check stands there
	}
	v, err := x.Of(ctx, jobID)
	if err != nil {
		return nil, err
	}
	var lines []string
	for _, c := range v.Checks {
		if c.State == checks.Wrong && c.Gate == gate {
			lines = append(lines, c.Title+": "+c.Found)
		}
	}
	return lines, nil
}

// told returns a probe's facts with a setup's drive in the computer, nil if there are none.
func told(sides map[string]probes.Reported, setup *job.Setup) *hardware.Facts {
	if setup == nil {
		return nil
	}
	t, ok := sides[setup.ID]
	if !ok {
		return nil
	}
	return &t.Facts
}

// heaviest returns the largest folders of a setup's drive, nil if not determined. For a failing drive they are
// in the order in which to copy them.
func (x *Swap) heaviest(ctx context.Context, jobID, setup string, fails bool) (*Heaviest, error) {
	folders, err := x.probes.Folders(ctx, jobID)
	if err != nil {
		return nil, err
	}
	w, ok := folders[setup]
	if !ok {
		return nil, nil
	}
	h := &Heaviest{At: w.At, Bytes: w.Bytes, Largest: append([]order.Folder{}, w.Largest...), Refused: w.Refused}
	if fails {
		h.Largest = rescue.First(h.Largest)
	}
	return h, nil
}
