package reporting

import (
	"context"
	"encoding/json"
	"fmt"

	"nowthen/bench"
	"nowthen/core/message"
	"nowthen/report"
)

// Issued returns a report of a job as it was issued: the one with that number, from 1, or with 0
// the last one. It never changes.
func (x *Reports) Issued(ctx context.Context, jobID string, revision int) (*report.Document, error) {
	if _, err := x.jobs.Load(ctx, jobID); err != nil {
		return nil, err
	}
	list, err := x.store.Reports(ctx, jobID)
	if err != nil {
		return nil, err
	}
	if revision == 0 {
		revision = len(list)
	}
	switch {
	case len(list) == 0:
		r := bench.Refuse(bench.Missing, "no-report-of-this")
		r.Do = message.Tell("issue-it-on-the")
		return nil, r
	case revision < 1 || revision > len(list):
		return nil, bench.Refuse(bench.Missing, "there-is-no-revision", message.Values{"Revision": revision, "List": len(list)})
	}
	d := &report.Document{}
	if err := json.Unmarshal(list[revision-1].Body, d); err != nil {
		return nil, fmt.Errorf("revision %d of the report of job %s: %w", revision, jobID, err)
	}
	d.Complete()
	d.Revision = revision // those of earlier versions did not count
	return d, nil
}

// File returns a report to bring out: an issued one, or with draft how it would be issued now.
func (x *Reports) File(ctx context.Context, jobID, lang string, draft bool, revision int) (*report.Document, error) {
	if !draft {
		return x.Issued(ctx, jobID, revision)
	}
	r, err := x.Report(ctx, jobID, lang)
	if err != nil {
		return nil, err
	}
	return r.Draft, nil
}
