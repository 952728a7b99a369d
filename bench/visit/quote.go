package visit

import (
	"context"
	"slices"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
)

// QuoteChange is a change of a quote; nil members stay unchanged.
type QuoteChange struct {
	Until  *string   `json:"until"`
	Drives *[]string `json:"drives"`
}

// SetQuote sets until when a quote is valid, and which drives it offers.
func (x *Visits) SetQuote(ctx context.Context, ch *bench.Change, id string, c QuoteChange) (*bench.View, error) {
	return x.onQuote(ctx, ch, id, func(_ *job.Job, q *job.Quote) error {
		f := bench.Fields{}
		if c.Until != nil {
			_, err := time.Parse(time.DateOnly, *c.Until)
			f.Check(*c.Until == "" || err == nil, "until", "Give a day, such as 2026-12-31.")
			q.Until = *c.Until
		}
		if c.Drives != nil {
			f.Check(len(*c.Drives) <= job.MaxOffered, "drives", "A quote offers up to three drives.")
			for _, d := range *c.Drives {
				f.Name("drives", d)
			}
			q.Drives = slices.Clone(*c.Drives)
		}
		return f.Refusal()
	})
}

// Accept accepts a quote: the new drive joins the job, its forecast is stored, and the work can begin. name is
// the drive's name in the quote.
func (x *Visits) Accept(ctx context.Context, ch *bench.Change, id string, in bench.Drive, name string,
	waits []job.Foretold) (*bench.View, error) {
	f := bench.Fields{}
	f.Input("new_drive", in)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.onQuote(ctx, ch, id, func(j *job.Job, q *job.Quote) error {
		drive := x.priced(in)
		now := j.AsNow()
		switch {
		case now == nil:
			fit(j, drive, "")
		case j.Drive(now.Drive).Simulated == "":
			d := j.Drive(now.Drive)
			d.DriveLabel = drive.DriveLabel
		}
		q.Accepted, q.New, q.Waits = x.jobs.Now(), strings.TrimSpace(name), waits
		return nil
	})
}

// onQuote changes the quote of a job that wasn't accepted yet.
func (x *Visits) onQuote(ctx context.Context, ch *bench.Change, id string,
	change func(j *job.Job, q *job.Quote) error) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, id, func(j *job.Job) error {
		if j.State() != job.StateQuoted {
			return &bench.Refusal{Kind: bench.Conflict, Message: "This job is no quote any more.",
				Kept: "The job is as it was.", Do: "Change its drives on the intake page."}
		}
		return change(j, j.Head.Quote)
	})
}
