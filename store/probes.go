package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// Probe is a probe that has joined a job. Its token is stored hashed.
type Probe struct {
	ID, Job, Token string
	// Gone: it was told to leave, and its token is invalid.
	Gone bool
	Body []byte
}

func (p Probe) model() *probeModel {
	return &probeModel{ID: p.ID, JobID: p.Job, Token: p.Token, Gone: p.Gone, Body: string(p.Body)}
}

func (m probeModel) probe() *Probe {
	return &Probe{ID: m.ID, Job: m.JobID, Token: m.Token, Gone: m.Gone, Body: []byte(m.Body)}
}

// AddPairing stores a hashed pairing code of a job, replaces the job's earlier ones, and deletes the expired
// ones of all jobs.
func (tx *Tx) AddPairing(ctx context.Context, code, jobID string, now, until time.Time) error {
	tx.about(jobID)
	return tx.write(ctx, func(db *gorm.DB) error {
		var all []pairingModel
		if err := db.Find(&all).Error; err != nil {
			return err
		}
		for _, p := range all {
			if p.JobID == jobID || p.Until.Before(now) {
				if err := db.Delete(&pairingModel{}, "code = ?", p.Code).Error; err != nil {
					return err
				}
			}
		}
		return db.Create(&pairingModel{Code: code, JobID: jobID, Until: until}).Error
	})
}

// TakePairing returns the job of a hashed pairing code and its expiry, and deletes it: a code works once.
func (tx *Tx) TakePairing(ctx context.Context, code string) (jobID string, until time.Time, err error) {
	err = tx.write(ctx, func(db *gorm.DB) error {
		var p pairingModel
		if err := db.Take(&p, "code = ?", code).Error; err != nil {
			return notFound("pairing", err)
		}
		jobID, until = p.JobID, p.Until
		return db.Delete(&pairingModel{}, "code = ?", code).Error
	})
	return jobID, until, err
}

// SaveProbe stores a probe, replacing the one with its id.
func (tx *Tx) SaveProbe(ctx context.Context, p Probe) error {
	tx.about(p.Job)
	return tx.put(ctx, p.model())
}

// Probe returns a probe by its id.
func (tx *Tx) Probe(ctx context.Context, id string) (*Probe, error) {
	var m probeModel
	if err := tx.on(ctx).Take(&m, "id = ?", id).Error; err != nil {
		return nil, notFound("probe", err)
	}
	return m.probe(), nil
}

// ProbeByToken returns the probe of a hashed token.
func (tx *Tx) ProbeByToken(ctx context.Context, token string) (*Probe, error) {
	var m probeModel
	if err := tx.on(ctx).Take(&m, "token = ?", token).Error; err != nil {
		return nil, notFound("probe", err)
	}
	return m.probe(), nil
}

// Probes returns the probes that have joined a job, in the order in which they came: those
// that have not left, or all.
func (tx *Tx) Probes(ctx context.Context, jobID string, all bool) ([]*Probe, error) {
	var rows []probeModel
	q := tx.on(ctx).Order("id").Where("job_id = ?", jobID)
	if !all {
		q = q.Where("gone = 0")
	}
	err := q.Find(&rows).Error
	list := make([]*Probe, len(rows))
	for i, m := range rows {
		list[i] = m.probe()
	}
	return list, err
}
