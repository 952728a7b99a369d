package forecasting

import (
	"context"
	"strings"

	"nowthen/bench"
	"nowthen/core/forecast"
	"nowthen/core/job"
)

// Offered is the forecast for the drives in a job's quote.
func (x *Forecasts) Offered(ctx context.Context, jobID string) (*forecast.Forecast, error) {
	snap, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	q := snap.Job.Head.Quote
	if q == nil {
		return nil, &bench.Refusal{Kind: bench.Conflict, Message: "This job was not opened as a quote.",
			Kept: "The job is as it was.", Do: "Open a new job with “Quote only”."}
	}
	f, err := x.For(ctx, snap.Job, q.Drives)
	if err != nil {
		return nil, err
	}
	f.Candidates = f.Candidates[:min(len(f.Candidates), job.MaxOffered)]
	return f, nil
}

// Foretell is the forecast for the drive that the customer chose, to be stored with the job: its name and the waits.
func (x *Forecasts) Foretell(ctx context.Context, jobID string,
	in bench.Drive) (name string, waits []job.Foretold, err error) {
	snap, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return "", nil, err
	}
	s, err := x.shop(ctx, snap.Job.Simulated())
	if err != nil {
		return "", nil, err
	}
	sh, err := bench.LoadShop(ctx, x.store)
	if err != nil {
		return "", nil, err
	}
	name = strings.TrimSpace(in.Maker + " " + in.Model)
	if name == "" {
		name = string(in.Kind)
	}
	f, ok := s.For(snap.Job, []forecast.Drive{{Name: name, Kind: in.Kind, CapacityBytes: in.CapacityBytes}}, felt(sh))
	if !ok {
		return name, nil, nil
	}
	for _, w := range f.Candidates[0].Waits {
		waits = append(waits, job.Foretold{Test: w.Test, Low: w.NowLow, High: w.NowHigh, Jobs: w.Jobs, Class: w.Class})
	}
	return name, waits, nil
}
