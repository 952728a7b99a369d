package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// SaveTechnician stores what is known of a technician.
func (s *Store) SaveTechnician(ctx context.Context, name string, body []byte) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&technicianRow{Name: name, Body: string(body)}).Error
}

// Technicians returns what is known of all technicians, by name.
func (s *Store) Technicians(ctx context.Context) ([][]byte, error) {
	var rows []technicianRow
	err := s.db.WithContext(ctx).Order("name").Find(&rows).Error
	bodies := make([][]byte, len(rows))
	for i, r := range rows {
		bodies[i] = []byte(r.Body)
	}
	return bodies, err
}

// Timers returns the states of all armed timers by job.
func (s *Store) Timers(ctx context.Context) (map[string][]byte, error) {
	var rows []timerRow
	err := s.db.WithContext(ctx).Find(&rows).Error
	all := make(map[string][]byte, len(rows))
	for _, r := range rows {
		all[r.JobID] = []byte(r.Body)
	}
	return all, err
}

// Setting returns a setting of the shop; its absence is [ErrNotFound].
func (s *Store) Setting(ctx context.Context, name string) (string, error) {
	var r settingRow
	if err := s.db.WithContext(ctx).Take(&r, "name = ?", name).Error; err != nil {
		return "", notFound("setting "+name, err)
	}
	return r.Body, nil
}

// SaveSetting stores a setting of the shop.
func (s *Store) SaveSetting(ctx context.Context, name, body string) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&settingRow{Name: name, Body: body}).Error
}

// Session is a signed-in browser. The token is stored hashed; the store does not
// know by which the browser could come in.
type Session struct {
	Token       string
	Since, Seen time.Time
}

// SaveSession stores a session, or that it was seen.
func (s *Store) SaveSession(ctx context.Context, v Session) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&sessionRow{Token: v.Token,
		Since: v.Since.UTC().Format(time.RFC3339Nano), Seen: v.Seen.UTC().Format(time.RFC3339Nano)}).Error
}

// Session returns the session of a hashed token.
func (s *Store) Session(ctx context.Context, token string) (*Session, error) {
	var r sessionRow
	if err := s.db.WithContext(ctx).Take(&r, "token = ?", token).Error; err != nil {
		return nil, notFound("session", err)
	}
	since, err := time.Parse(time.RFC3339Nano, r.Since)
	if err != nil {
		return nil, err
	}
	seen, err := time.Parse(time.RFC3339Nano, r.Seen)
	return &Session{Token: r.Token, Since: since, Seen: seen}, err
}

// EndSession ends a session; an empty token ends all of them.
func (s *Store) EndSession(ctx context.Context, token string) error {
	db := s.db.WithContext(ctx)
	if token == "" {
		return db.Where("1 = 1").Delete(&sessionRow{}).Error
	}
	return db.Delete(&sessionRow{}, "token = ?", token).Error
}

// SaveClip stores what is known of a clip; its bytes lie elsewhere.
func (s *Store) SaveClip(ctx context.Context, id, jobID string, body []byte) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&clipRow{ID: id, JobID: jobID, Body: string(body)}).Error
}

// Clip returns what is known of a clip of a job.
func (s *Store) Clip(ctx context.Context, jobID, id string) ([]byte, error) {
	var r clipRow
	if err := s.db.WithContext(ctx).Take(&r, "id = ? AND job_id = ?", id, jobID).Error; err != nil {
		return nil, notFound("clip", err)
	}
	return []byte(r.Body), nil
}

// StoredClip is a clip with its job.
type StoredClip struct {
	Job  string
	Body []byte
}

// Clips returns the clips of a job in the order in which they came; an empty job
// means all of the shop.
func (s *Store) Clips(ctx context.Context, jobID string) ([]StoredClip, error) {
	db := s.db.WithContext(ctx).Order("id")
	if jobID != "" {
		db = db.Where("job_id = ?", jobID)
	}
	var rows []clipRow
	err := db.Find(&rows).Error
	list := make([]StoredClip, len(rows))
	for i, r := range rows {
		list[i] = StoredClip{r.JobID, []byte(r.Body)}
	}
	return list, err
}
