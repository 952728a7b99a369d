package swap

import (
	"context"
	"errors"
	"time"

	"nowthen/core/hardware/match"

	"nowthen/bench"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/layout"
)

// Fit is the old drive and the possible layouts of its partitions on the new one.
type Fit struct {
	CapacityBytes    int64 `json:"capacity_bytes"` // of the old drive
	NewCapacityBytes int64 `json:"new_capacity_bytes"`
	UsedBytes        int64 `json:"used_bytes"` // where it is known
	// InAYear is how full the old drive would be in a year; nil if not known.
	InAYear    *InAYear             `json:"in_a_year"`
	Partitions []hardware.Partition `json:"partitions"` // as they are
	Ways       []Way                `json:"ways"`

	source layout.Source
}

// InAYear is how full a drive would be in a year, at the average rate since its system was installed.
type InAYear struct {
	Since     time.Time `json:"since"`
	UsedBytes int64     `json:"used_bytes"`
	// TooFull: the new drive would have less free space than recommended.
	TooFull bool `json:"too_full"`
}

// Way is one possible layout of the new drive.
type Way struct {
	As     string         `json:"as"`
	Layout *layout.Layout `json:"layout"`
	// Script is the layout for sfdisk; "" if it doesn't fit.
	Script string `json:"script"`
}

// fit computes how the old drive's partitions go onto the new one, or returns what is missing.
func fit(j *job.Job, then, now *job.Setup, before *hardware.Facts, at time.Time) (*Fit, string) {
	switch {
	case then == nil || before == nil:
		return nil, "The probe has not seen the old drive yet; let the computer join while it is in."
	case now == nil || j.Drive(now.Drive).CapacityBytes == 0:
		return nil, "How large the new drive is, is not entered yet."
	}
	old := match.UnderTest(before, j, then)
	if old == nil {
		return nil, "The probe does not see which of the drives is the old one."
	}
	f := &Fit{CapacityBytes: old.CapacityBytes, NewCapacityBytes: j.Drive(now.Drive).CapacityBytes,
		Partitions: []hardware.Partition{}, Ways: []Way{}}
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
	l, err := layout.Propose(f.source,
		layout.Target{CapacityBytes: f.NewCapacityBytes, SectorBytes: 512, As: as, Sizes: sizes})
	if err != nil {
		return nil, err
	}
	w := &Way{As: as, Layout: l}
	if l.Fits {
		w.Script = l.Script()
	}
	return w, nil
}

// Own returns the layout of a job's new drive with chosen sizes, bytes, by partition number of the old drive.
func (x *Swap) Own(ctx context.Context, jobID string, sizes map[int]int64) (*Way, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	sides, err := x.probes.Sides(ctx, jobID)
	if err != nil {
		return nil, err
	}
	then, now := s.Job.SetupAs(job.Then), s.Job.AsNow()
	f, missing := fit(s.Job, then, now, told(sides, then), x.jobs.Now())
	if f == nil {
		return nil, bench.Because(bench.Conflict, errors.New(missing))
	}
	w, err := f.way(layout.Own, sizes)
	if err != nil {
		return nil, bench.Because(bench.Invalid, err)
	}
	return w, nil
}
