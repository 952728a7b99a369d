package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// Share is a link by which an issued report can be read from outside. Its token is stored
// hashed.
type Share struct {
	ID, Token, Job, Report string
	Made, Until            time.Time
	Revoked                bool
	Opened                 int // so often
}

func (m shareModel) share() Share {
	return Share{ID: m.ID, Token: m.Token, Job: m.JobID, Report: m.ReportID, Made: m.Made, Until: m.Until,
		Revoked: m.Revoked, Opened: m.Opened}
}

// AddShare stores a new share.
func (tx *Tx) AddShare(ctx context.Context, v Share) error {
	tx.about(v.Job)
	return tx.write(ctx, func(db *gorm.DB) error {
		return db.Create(&shareModel{ID: v.ID, Token: v.Token, JobID: v.Job, ReportID: v.Report, Made: v.Made,
			Until: v.Until}).Error
	})
}

// Shares returns the shares of a job, the oldest first.
func (tx *Tx) Shares(ctx context.Context, jobID string) ([]Share, error) {
	var rows []shareModel
	err := tx.on(ctx).Order("id").Find(&rows, "job_id = ?", jobID).Error
	list := make([]Share, len(rows))
	for i, m := range rows {
		list[i] = m.share()
	}
	return list, err
}

// RevokeShare revokes a share of a job.
func (tx *Tx) RevokeShare(ctx context.Context, jobID, id string) error {
	tx.about(jobID)
	return tx.write(ctx, func(db *gorm.DB) error {
		res := db.Model(&shareModel{}).Where("id = ? AND job_id = ?", id, jobID).Update("revoked", true)
		if res.Error == nil && res.RowsAffected == 0 {
			return notFound("share", gorm.ErrRecordNotFound)
		}
		return res.Error
	})
}

// OpenShare returns the report of a hashed token and counts the opening. Revoked, expired and unknown tokens
// are all not found.
func (tx *Tx) OpenShare(ctx context.Context, token string, now time.Time) (*Report, error) {
	var r *Report
	err := tx.write(ctx, func(db *gorm.DB) error {
		m, err := goodShare(db, token, now)
		if err != nil {
			return err
		}
		if err := db.Model(m).Update("opened", gorm.Expr("opened + 1")).Error; err != nil {
			return err
		}
		r, err = reportOf(db, m)
		return err
	})
	return r, err
}

// LookShare is [Store.OpenShare] without counting.
func (tx *Tx) LookShare(ctx context.Context, token string, now time.Time) (*Report, error) {
	db := tx.on(ctx)
	m, err := goodShare(db, token, now)
	if err != nil {
		return nil, err
	}
	return reportOf(db, m)
}

// goodShare is the share with a token that is neither revoked nor expired.
func goodShare(db *gorm.DB, token string, now time.Time) (*shareModel, error) {
	m := &shareModel{}
	if err := db.Take(m, "token = ? AND revoked = 0", token).Error; err != nil {
		return nil, notFound("share", err)
	}
	if !now.Before(m.Until) {
		return nil, notFound("share", gorm.ErrRecordNotFound)
	}
	return m, nil
}

func reportOf(db *gorm.DB, m *shareModel) (*Report, error) {
	var r reportModel
	if err := db.Take(&r, "id = ?", m.ReportID).Error; err != nil {
		return nil, notFound("report", err)
	}
	return &Report{ID: r.ID, JobID: r.JobID, Issued: r.Issued, Body: []byte(r.Body)}, nil
}
