package reporting

import (
	"context"

	"nowthen/bench"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/side"
)

// Closer is everything about the runs of a test beyond their values.
type Closer struct {
	Test  job.Test     `json:"test"`
	Sides []CloserSide `json:"sides"` // setups in the order of the job
}

// CloserSide is a test on one setup.
type CloserSide struct {
	Setup string      `json:"setup"`
	Runs  []CloserRun `json:"runs"` // kept and set aside
}

// CloserRun is a run with what is computed from it alone.
type CloserRun struct {
	job.Run
	// Cliff is where sustained writing dropped to a lower rate, or nil.
	Cliff *drivetest.Cliff `json:"cliff"`
	// KeepUp reports whether the drive keeps up with the test's streams; nil if there are none.
	KeepUp *KeepUp `json:"keep_up"`
	// Tiers are the two tiers of a drive with a cache in front, or nil.
	Tiers *job.Tiers `json:"tiers"`
	// MBs and FilesS are the rates of a file test; nil of others.
	MBs    *float64 `json:"mb_s"`
	FilesS *float64 `json:"files_s"`
}

// KeepUp is the slowest second as a multiple of the need.
type KeepUp struct {
	NeedMBs float64 `json:"need_mb_s"`
	Margin  float64 `json:"margin"`
	Verdict string  `json:"verdict"` // keeps-up, just, falls-behind
}

// Closer returns the details of one test of a job.
func (x *Reports) Closer(ctx context.Context, jobID, test string) (*Closer, error) {
	snap, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	j, ix := snap.Job, snap.Index()
	t := j.Test(test)
	if t == nil {
		return nil, bench.NoSuch("test", test)
	}
	var ids []string
	for _, s := range j.Setups {
		for _, r := range ix.RunsOf(test, s.ID) {
			ids = append(ids, r.ID)
		}
	}
	traces := map[string]job.Trace{}
	if len(ids) > 0 {
		if traces, err = x.store.Traces(ctx, jobID, ids...); err != nil {
			return nil, err
		}
	}
	c := &Closer{Test: *t, Sides: []CloserSide{}}
	for _, s := range j.Setups {
		half := CloserSide{Setup: s.ID, Runs: []CloserRun{}}
		limit := 0.0
		if d := j.Drive(s.Drive); d != nil && d.Rated != nil {
			limit = d.Rated.MaxTempC
		}
		for _, r := range ix.RunsOf(test, s.ID) {
			r.Join(traces[r.ID])
			run := closerRun(t, r, limit)
			if r.Latency != nil && r.Latency.Spread != nil && side.Learns(j, s.ID) {
				if tiers, ok := r.Latency.Spread.Tiers(); ok {
					run.Tiers = &tiers
				}
			}
			half.Runs = append(half.Runs, run)
		}
		c.Sides = append(c.Sides, half)
	}
	return c, nil
}

func closerRun(t *job.Test, r job.Run, limit float64) CloserRun {
	c := CloserRun{Run: r}
	if t.Params != nil && t.Params.Fresh {
		c.Cliff = job.CliffOf(&r, limit)
	}
	if t.Params != nil && t.Params.Streams != nil && r.Value > 0 {
		s := *t.Params.Streams
		margin, verdict := s.KeepUp(r.Value)
		c.KeepUp = &KeepUp{NeedMBs: s.NeedMBs(), Margin: margin, Verdict: verdict}
	}
	if t.FileWork != nil && r.Value > 0 && r.Bytes > 0 {
		mbs, files := float64(r.Bytes)/r.Value/1e6, float64(r.Files)/r.Value
		c.MBs, c.FilesS = &mbs, &files
	}
	return c
}

// Run returns a run with its trace.
func (x *Reports) Run(ctx context.Context, jobID, run string) (*job.Run, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	r := s.Job.Run(run)
	if r == nil {
		return nil, bench.NoSuch("run", run)
	}
	traces, err := x.store.Traces(ctx, jobID, run)
	if err != nil {
		return nil, err
	}
	whole := *r
	whole.Join(traces[run])
	return &whole, nil
}
