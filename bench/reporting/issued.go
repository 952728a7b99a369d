package reporting

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/report"
	"nowthen/store"
)

// Issued returns an issued report of a job by its number, from 1, or the last one with 0. It never changes.
func (x *Reports) Issued(ctx context.Context, jobID string, revision int) (*report.Document, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	list, err := x.store.Reports(ctx, jobID)
	if err != nil {
		return nil, err
	}
	last := revision == 0
	if last {
		revision = holding(s.Job, list)
	}
	switch {
	case len(list) == 0, last && revision == 0:
		r := bench.Refuse(bench.Missing, "This job has no issued report yet.")
		r.Do = "Issue it on the job's report page."
		return nil, r
	case revision < 1 || revision > len(list):
		return nil, bench.Refuse(bench.Missing, "This report has no revision %d. The last one is %d.", revision,
			len(list))
	}
	d, err := opened(list[revision-1].Body)
	if err != nil {
		return nil, fmt.Errorf("revision %d of the report of job %s: %w", revision, jobID, err)
	}
	d.Revision = revision // those of earlier versions did not count
	if at := s.Job.Withdrew(revision); at != nil {
		d.Withdraw(*at)
	}
	return d, nil
}

// holding is the number of the last issued report that wasn't withdrawn, 0 if there is none.
func holding(j *job.Job, list []store.Report) int {
	for n := len(list); n > 0; n-- {
		if j.Withdrew(n) == nil {
			return n
		}
	}
	return 0
}

// Withdraw withdraws an issued report and undoes its gate. The report stays in the list, and its links say that it was withdrawn.
func (x *Reports) Withdraw(ctx context.Context, ch *bench.Change, jobID string, revision int) (*bench.View, error) {
	return x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		list, err := ch.Tx.Reports(ctx, jobID)
		if err != nil {
			return err
		}
		if revision < 1 || revision > len(list) {
			return bench.Refuse(bench.Missing, "This report has no revision %d. The last one is %d.", revision,
				len(list))
		}
		if j.Withdrew(revision) != nil {
			return nil // that was done already
		}
		j.Head.Withdrawn = append(j.Head.Withdrawn, job.Withdrawn{Revision: revision, At: x.jobs.Now()})
		n := 0 // each issue passed its gate
		j.Head.Gates = slices.DeleteFunc(j.Head.Gates, func(g job.Gate) bool {
			return g.Name == job.GateReport && g.At.Equal(list[revision-1].Issued) &&
				func() bool { n++; return n == 1 }()
		})
		return nil
	})
}

// File returns a report for a file: an issued one, or with draft the current draft.
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

// opened returns a frozen report, with defaults for members that earlier versions lack.
func opened(body []byte) (*report.Document, error) {
	d := &report.Document{}
	if err := json.Unmarshal(body, d); err != nil {
		return nil, err
	}
	d.Complete()
	return d, nil
}

// Revision is an issued report in the list of a job's.
type Revision struct {
	Revision int       `json:"revision"`
	Issued   time.Time `json:"issued"`
	Lang     string    `json:"lang"`
	Headline string    `json:"headline"`
	Changes  []string  `json:"changes"`
	// Withdrawn is when it was withdrawn; nil if it wasn't.
	Withdrawn *time.Time `json:"withdrawn,omitzero"`
}

// Revisions are all issued reports of a job, first one first.
func (x *Reports) Revisions(ctx context.Context, jobID string) ([]Revision, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	list, err := x.store.Reports(ctx, jobID)
	if err != nil {
		return nil, err
	}
	all := []Revision{}
	for i, r := range list {
		d, err := opened(r.Body)
		if err != nil {
			return nil, fmt.Errorf("revision %d of the report of job %s: %w", i+1, jobID, err)
		}
		all = append(all, Revision{Revision: i + 1, Issued: r.Issued, Lang: d.Lang, Headline: d.Headline,
			Changes: d.Changes, Withdrawn: s.Job.Withdrew(i + 1)})
	}
	return all, nil
}

// Draft is the technician's choices for the report; see [job.ReportDraft].
type Draft struct {
	Note    string     `json:"note" validate:"max=1000"`
	First   []string   `json:"first" validate:"max=200,dive,max=200"`
	LeftOut []string   `json:"left_out" validate:"max=200,dive,max=200"`
	Short   bool       `json:"short"`
	Length  job.Length `json:"length" validate:"omitempty,oneof=one two full"`
	Photos  []string   `json:"photos" validate:"max=200,dive,max=200"`
}

// Choose stores the technician's choices for a job's report. Issued reports don't change.
func (x *Reports) Choose(ctx context.Context, ch *bench.Change, jobID string, in Draft) (*bench.View, error) {
	return x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		f := bench.Fields{}
		f.Input("", in)
		for field, ids := range map[string][]string{"first": in.First, "left_out": in.LeftOut} {
			for _, id := range ids {
				f.Check(j.Test(id) != nil, field, fmt.Sprintf("There is no test %q in this job.", id))
			}
		}
		for _, id := range in.Photos {
			step, _ := photoOf(j, id)
			_, _, err := ch.Tx.Photo(ctx, jobID, id) // one that came without its file is not shown
			f.Check(step != nil && err == nil, "photos", fmt.Sprintf("There is no photo %s in this job.", id))
		}
		f.Check(len(in.Photos) <= mostPhotos, "photos",
			fmt.Sprintf("A report has at most %d photos.", mostPhotos))
		f.Check(j.Plan.Headline == "" || !slices.Contains(in.LeftOut, j.Plan.Headline), "left_out",
			"That test is the report’s headline. Choose another headline in the plan first.")
		if err := f.Refusal(); err != nil {
			return err
		}
		d := &job.ReportDraft{Note: strings.TrimSpace(in.Note), First: in.First, LeftOut: in.LeftOut, Short: in.Short,
			Length: in.Length, Photos: in.Photos}
		if before := j.Head.Report; before != nil {
			d.Unknown = before.Unknown
		}
		j.Head.Report = d
		return nil
	})
}
