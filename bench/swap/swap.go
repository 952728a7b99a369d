// Package swap is the work between Then and Now, as far as the probe sees it: whether the new
// drive has room, which partition goes where on it, and whether it is at home once it is in.
//
// It must not import HTTP, screens or other use cases.
package swap

import (
	"context"
	"errors"
	"time"

	"nowthen/bench"
	"nowthen/core/checks"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/layout"
	"nowthen/core/order"
	"nowthen/core/rescue"
	"nowthen/core/work"
	"nowthen/store"
)

// Facts are what probes told of a job's computer, by the setup that it was in then.
type Facts func(ctx context.Context, jobID string) (map[string]Told, error)

// Heaviest are the folders that hold the most, as a probe told.
type Heaviest struct {
	At      time.Time      `json:"at"`
	Bytes   int64          `json:"bytes"`
	Largest []order.Folder `json:"largest"`
	Refused string         `json:"refused"` // why it could not be looked
}

// Folders are what probes told of the largest folders of a job's computer, by the setup in whose drive they lie.
type Folders func(ctx context.Context, jobID string) (map[string]Heaviest, error)

// Told is what a probe told, and when.
type Told struct {
	hardware.Facts
	At time.Time
}

// Store is what the swap needs of the store.
type Store interface {
	KeepLists(ctx context.Context, jobID string, until time.Time, body []byte) error
	Lists(ctx context.Context, jobID string, now time.Time) (body []byte, until time.Time, err error)
	DropLists(ctx context.Context, now time.Time) (n int, err error)
	Model(ctx context.Context, maker, model string) ([]byte, error)
	KeepModel(ctx context.Context, maker, model string, body []byte) error
	Search(ctx context.Context, by store.Search) (found []store.Found, total int, next string, err error)
	Outlines(ctx context.Context, ids []string) ([]store.Outline, error)
}

// Swap looks at the swap of a job.
type Swap struct {
	store   Store
	jobs    *bench.Jobs
	facts   Facts
	folders Folders
}

// New returns the swaps of a bench.
func New(jobs *bench.Jobs, s Store, facts Facts, folders Folders) *Swap {
	return &Swap{s, jobs, facts, folders}
}

// Recover deletes what was to be kept until now.
func (x *Swap) Recover(ctx context.Context) error {
	_, err := x.store.DropLists(ctx, x.jobs.Now())
	return err
}

// View is the swap of a job.
type View struct {
	// Fit is how the old drive's partitions go onto the new one; nil where one of the two is
	// not known, and Missing says which.
	Fit     *Fit   `json:"fit"`
	Missing string `json:"missing"`
	// Checks are of the drive that was put in; empty before the probe has seen it.
	Checks []checks.Check `json:"checks"`
	// Checked is when the probe said what they rest on; nil without checks.
	Checked *time.Time `json:"checked"`
	// Failing says why the old drive must be taken for one that fails, "" where nothing speaks for that; the folders then stand in the
	// order in which to copy them.
	Failing string `json:"failing"`
	// Heaviest are the folders of the old drive that hold the most; nil where nobody looked.
	Heaviest *Heaviest `json:"heaviest"`
	// Lists are the names behind the counts of what came across; nil where none are kept, or no more.
	Lists *Lists `json:"lists"`
	// Work is the time that the visit's tasks took.
	Work work.Summary `json:"work"`
}

// Fit is the old drive and the ways in which its partitions could lie on the new one.
type Fit struct {
	CapacityBytes    int64 `json:"capacity_bytes"` // of the old drive
	NewCapacityBytes int64 `json:"new_capacity_bytes"`
	UsedBytes        int64 `json:"used_bytes"` // where it is known
	// InAYear is how the old drive would fill in a year; nil where that is not known.
	InAYear    *InAYear             `json:"in_a_year"`
	Partitions []hardware.Partition `json:"partitions"` // as they are
	Ways       []Way                `json:"ways"`

	source layout.Source
}

// InAYear is how full a drive would be in a year if it went on as it did since its system was installed.
type InAYear struct {
	Since     time.Time `json:"since"`
	UsedBytes int64     `json:"used_bytes"`
	// TooFull: the new drive would not keep the room that it should.
	TooFull bool `json:"too_full"`
}

// Way is one way to share the new drive out.
type Way struct {
	As     string         `json:"as"`
	Layout *layout.Layout `json:"layout"`
	// Script is the layout as sfdisk takes it; "" where it does not fit.
	Script string `json:"script"`
}

// Of returns the swap of a job.
func (x *Swap) Of(ctx context.Context, jobID string) (*View, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	sides, err := x.facts(ctx, jobID)
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
	if v.Lists, err = x.lists(ctx, jobID); err != nil {
		return nil, err
	}
	then, now := j.SetupAs(job.Then), j.SetupAs(job.Now)
	var before *hardware.Facts
	if then != nil {
		if seen, ok := sides[then.ID]; ok {
			before = &seen.Facts
		}
	}
	v.Fit, v.Missing = fit(j, then, now, before, x.jobs.Now())
	if before != nil && then != nil {
		v.Failing = rescue.Failing(before.UnderTest(j, then))
	}
	folders, err := x.folders(ctx, jobID)
	if err != nil {
		return nil, err
	}
	if then != nil {
		if h, ok := folders[then.ID]; ok {
			h.Largest = append([]order.Folder{}, h.Largest...)
			if v.Failing != "" {
				h.Largest = rescue.First(h.Largest)
			}
			v.Heaviest = &h
		}
	}
	if now == nil {
		return v, nil
	}
	if seen, ok := sides[now.ID]; ok {
		v.Checks, v.Checked = checks.Of(j, now, before, &seen.Facts), &seen.At
	}
	var told *hardware.Facts
	if seen, ok := sides[now.ID]; ok {
		told = &seen.Facts
	}
	v.Checks = append(v.Checks, checks.Noted(j, now, told)...)
	v.Checks = append(v.Checks, checks.ByHand(j, now)...)
	return v, nil
}

// fit works out how the old drive's partitions go onto the new one, or says what is missing.
func fit(j *job.Job, then, now *job.Setup, before *hardware.Facts, at time.Time) (*Fit, string) {
	switch {
	case then == nil || before == nil:
		return nil, "The probe has not seen the old drive yet; let the computer join while it is in."
	case now == nil || j.Drive(now.Drive).CapacityBytes == 0:
		return nil, "How large the new drive is, is not entered yet."
	}
	old := before.UnderTest(j, then)
	if old == nil {
		return nil, "The probe does not see which of the drives is the old one."
	}
	f := &Fit{CapacityBytes: old.CapacityBytes, NewCapacityBytes: j.Drive(now.Drive).CapacityBytes, Partitions: []hardware.Partition{}, Ways: []Way{}}
	if a, ok := before.YearAhead(old.ID, at); ok {
		f.InAYear = &InAYear{a.Since, a.Bytes, !layout.HasHeadroom(a.Bytes, f.NewCapacityBytes)}
	}
	source := layout.Source{CapacityBytes: old.CapacityBytes, SectorBytes: old.LogicalBytes}
	for _, p := range before.Partitions {
		if p.Drive == old.ID {
			source.Partitions, f.UsedBytes = append(source.Partitions, p), f.UsedBytes+p.UsedBytes
		}
	}
	f.Partitions = append(f.Partitions, source.Partitions...)
	for _, v := range before.Volumes {
		if v.System && v.Drive == old.ID {
			source.System = v.Partition
		}
	}
	f.source = source
	for _, as := range []string{layout.ForSys, layout.ByUse, layout.SameSize} {
		w, err := f.way(as, nil)
		if err != nil {
			return nil, bench.Sentence(err)
		}
		f.Ways = append(f.Ways, *w)
	}
	return f, ""
}

func (f *Fit) way(as string, sizes map[int]int64) (*Way, error) {
	l, err := layout.Propose(f.source, layout.Target{CapacityBytes: f.NewCapacityBytes, SectorBytes: 512, As: as, Sizes: sizes})
	if err != nil {
		return nil, err
	}
	w := &Way{As: as, Layout: l}
	if l.Fits {
		w.Script = l.Script()
	}
	return w, nil
}

// Own is the layout of a job's new drive at sizes that somebody wants, bytes, by the numbers of the old drive's partitions.
func (x *Swap) Own(ctx context.Context, jobID string, sizes map[int]int64) (*Way, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	sides, err := x.facts(ctx, jobID)
	if err != nil {
		return nil, err
	}
	then, now := s.Job.SetupAs(job.Then), s.Job.SetupAs(job.Now)
	var before *hardware.Facts
	if then != nil {
		if seen, ok := sides[then.ID]; ok {
			before = &seen.Facts
		}
	}
	f, missing := fit(s.Job, then, now, before, x.jobs.Now())
	if f == nil {
		return nil, bench.Because(bench.Conflict, errors.New(missing))
	}
	w, err := f.way(layout.Own, sizes)
	if err != nil {
		return nil, bench.Because(bench.Invalid, err)
	}
	return w, nil
}
