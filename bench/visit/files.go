package visit

import (
	"context"
	"errors"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/message"
)

// Import takes a job file in as a new job.
func (x *Visits) Import(ctx context.Context, name string, data []byte) (*bench.View, error) {
	j, err := jobfile.Read(name, data)
	var refused *jobfile.Refusal
	if errors.As(err, &refused) {
		return nil, bench.FileRefusal(refused)
	}
	if err != nil {
		return nil, err
	}
	if j.Head.Opened.IsZero() {
		j.Head.Opened = x.jobs.Now()
	}
	return x.jobs.Add(ctx, func(context.Context) (*job.Job, error) { return j, nil })
}

// Export returns a job as a job file, with everything that its runs have.
func (x *Visits) Export(ctx context.Context, id string) (number string, data []byte, err error) {
	s, err := x.jobs.Load(ctx, id)
	if err != nil {
		return "", nil, err
	}
	traces, err := x.store.Traces(ctx, id)
	if err != nil {
		return "", nil, err
	}
	j := s.Job.Clone()
	for i := range j.Runs {
		j.Runs[i].Join(traces[j.Runs[i].ID])
	}
	data, err = jobfile.Write(j)
	return j.Head.Number, data, err
}

// Numbered returns the id of the newest job with a number.
func (x *Visits) Numbered(ctx context.Context, number string) (string, error) {
	ids, err := x.store.ByNumber(ctx, number)
	if err == nil && len(ids) == 0 {
		err = bench.Refuse(bench.Missing, "there-is-no-job", message.Values{"Number": number})
	}
	if err != nil {
		return "", err
	}
	return ids[0], nil
}
