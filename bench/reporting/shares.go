package reporting

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/access/token"
	"nowthen/bench"
	"nowthen/report"
	"nowthen/store"
)

// Bounds of how long a shared link is valid, days.
const (
	usualDays = 90
	mostDays  = 730
)

// Share is a link by which a customer reads a report.
type Share struct {
	ID string `json:"id"`
	// Token is the end of its address; it is shown once, when it is made, and "" afterwards.
	Token    string    `json:"token"`
	Revision int       `json:"revision"` // of the report
	Made     time.Time `json:"made"`
	Until    time.Time `json:"until"`
	Revoked  bool      `json:"revoked"`
	Expired  bool      `json:"expired"`
	Opened   int       `json:"opened"` // so often
}

// MakeShare makes a link to a job's last issued report, valid for so many days; 0 is the default.
func (x *Reports) MakeShare(ctx context.Context, ch *bench.Change, jobID string, days int) (*Share, error) {
	if days == 0 {
		days = usualDays
	}
	f := bench.Fields{}
	f.Check(days >= 1 && days <= mostDays, "days", fmt.Sprintf("A link is valid for 1 to %d days.", mostDays))
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	if _, err := x.Issued(ctx, jobID, 0); err != nil {
		return nil, err
	}
	const bytes = 24
	now := x.jobs.Now()
	s := &Share{ID: bench.NewID(), Token: token.New(bytes), Made: now, Until: now.AddDate(0, 0, days)}
	return s, x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		list, err := ch.Tx.Reports(ctx, jobID)
		if err != nil {
			return err
		}
		job, err := x.jobs.Load(ctx, jobID)
		if err != nil {
			return err
		}
		s.Revision = holding(job.Job, list)
		ch.Made("jobs/" + jobID + "/shares")
		kept := *s
		kept.Token = "" // a repeat is answered without it: no secret is stored
		ch.Answer(kept)
		return ch.Tx.AddShare(ctx,
			store.Share{ID: s.ID, Token: token.Hash(s.Token), Job: jobID, Report: list[s.Revision-1].ID, Made: s.Made,
				Until: s.Until})
	})
}

// Shares returns the links to reports of a job, the oldest first.
func (x *Reports) Shares(ctx context.Context, jobID string) ([]Share, error) {
	if _, err := x.jobs.Load(ctx, jobID); err != nil {
		return nil, err
	}
	rows, err := x.store.Shares(ctx, jobID)
	if err != nil {
		return nil, err
	}
	reports, err := x.store.Reports(ctx, jobID)
	if err != nil {
		return nil, err
	}
	list := []Share{}
	for _, r := range rows {
		s := Share{ID: r.ID, Made: r.Made, Until: r.Until, Revoked: r.Revoked, Expired: !x.jobs.Now().Before(r.Until),
			Opened: r.Opened}
		for i, of := range reports {
			if of.ID == r.Report {
				s.Revision = i + 1
			}
		}
		list = append(list, s)
	}
	return list, nil
}

// Revoke invalidates a link.
func (x *Reports) Revoke(ctx context.Context, ch *bench.Change, jobID, id string) ([]Share, error) {
	if err := x.jobs.Write(ctx, ch,
		func(ch *bench.Change) error { return ch.Tx.RevokeShare(ctx, jobID, id) }); err != nil {
		return nil, bench.Found(err)
	}
	return x.Shares(ctx, jobID)
}

// ErrNoShare means that a token is invalid: it was never made, is revoked, or has expired. It doesn't say
// which.
var ErrNoShare = errors.New("this link opens nothing")

// OpenedBy returns the job and the language of the report behind a token, without counting it as opened.
func (x *Reports) OpenedBy(ctx context.Context, secret string) (jobID, lang string, err error) {
	r, err := x.store.LookShare(ctx, token.Hash(secret), x.jobs.Now())
	if errors.Is(err, store.ErrNotFound) {
		return "", "", ErrNoShare
	}
	if err != nil {
		return "", "", err
	}
	var d struct {
		Lang string `json:"lang"`
	}
	err = json.Unmarshal(r.Body, &d)
	return r.JobID, d.Lang, err
}

// Shared returns the report behind a token, and counts it as opened.
func (x *Reports) Shared(ctx context.Context, secret string) (*report.Document, error) {
	r, err := x.store.OpenShare(ctx, token.Hash(secret), x.jobs.Now())
	if errors.Is(err, store.ErrNotFound) {
		return nil, ErrNoShare
	}
	if err != nil {
		return nil, err
	}
	d, err := opened(r.Body)
	if err != nil {
		return nil, err
	}
	s, err := x.jobs.Load(ctx, r.JobID)
	if err != nil {
		return nil, err
	}
	list, err := x.store.Reports(ctx, r.JobID)
	if err != nil {
		return nil, err
	}
	if n := slices.IndexFunc(list, func(of store.Report) bool { return of.ID == r.ID }); n >= 0 {
		if at := s.Job.Withdrew(n + 1); at != nil {
			return d.WithoutFigures(*at), nil
		}
	}
	return d, nil
}
