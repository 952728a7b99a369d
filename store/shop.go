package store

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// put stores a row, replacing the one with its key.
func (tx *Tx) put(ctx context.Context, row any) error {
	return tx.write(ctx, func(db *gorm.DB) error {
		return db.Clauses(clause.OnConflict{UpdateAll: true}).Create(row).Error
	})
}

// SaveTemplate stores a template of the shop.
func (tx *Tx) SaveTemplate(ctx context.Context, id string, body []byte) error {
	return tx.put(ctx, &templateModel{ID: id, Body: string(body)})
}

// Templates returns the shop's templates in the order in which they were made.
func (tx *Tx) Templates(ctx context.Context) ([][]byte, error) {
	var rows []templateModel
	err := tx.on(ctx).Order("id").Find(&rows).Error
	bodies := make([][]byte, len(rows))
	for i, r := range rows {
		bodies[i] = []byte(r.Body)
	}
	return bodies, err
}

// DropTemplate deletes a template of the shop.
func (tx *Tx) DropTemplate(ctx context.Context, id string) error {
	return tx.write(ctx, func(db *gorm.DB) error {
		res := db.Delete(&templateModel{}, "id = ?", id)
		if res.Error == nil && res.RowsAffected == 0 {
			return fmt.Errorf("template: %w", ErrNotFound)
		}
		return res.Error
	})
}

// AddPhoto stores a picture of a job.
func (tx *Tx) AddPhoto(ctx context.Context, id, jobID, kind string, body []byte) error {
	tx.about(jobID)
	return tx.write(ctx, func(db *gorm.DB) error {
		return db.Create(&photoModel{ID: id, JobID: jobID, Type: kind, Body: body}).Error
	})
}

// Photo returns a picture of a job and its type.
func (tx *Tx) Photo(ctx context.Context, jobID, id string) (kind string, body []byte, err error) {
	var r photoModel
	if err := tx.on(ctx).Take(&r, "id = ? AND job_id = ?", id, jobID).Error; err != nil {
		return "", nil, notFound("photo", err)
	}
	return r.Type, r.Body, nil
}

// SaveTimer stores the state of a job's timer.
func (tx *Tx) SaveTimer(ctx context.Context, jobID string, body []byte) error {
	tx.about(jobID)
	return tx.put(ctx, &timerModel{JobID: jobID, Body: string(body)})
}

// Timer returns the state of a job's timer.
func (tx *Tx) Timer(ctx context.Context, jobID string) ([]byte, error) {
	var t timerModel
	if err := tx.on(ctx).Take(&t, "job_id = ?", jobID).Error; err != nil {
		return nil, notFound("timer", err)
	}
	return []byte(t.Body), nil
}

// Timers returns the states of all armed timers by job.
func (tx *Tx) Timers(ctx context.Context) (map[string][]byte, error) {
	var rows []timerModel
	err := tx.on(ctx).Find(&rows).Error
	all := make(map[string][]byte, len(rows))
	for _, r := range rows {
		all[r.JobID] = []byte(r.Body)
	}
	return all, err
}

// DropTimer deletes a job's timer.
func (tx *Tx) DropTimer(ctx context.Context, jobID string) error {
	tx.about(jobID)
	return tx.write(ctx, func(db *gorm.DB) error { return db.Delete(&timerModel{}, "job_id = ?", jobID).Error })
}

// Report is an issued report.
type Report struct {
	ID     string
	JobID  string
	Issued time.Time
	Body   []byte
}

// AddReport stores an issued report, which is never changed.
func (tx *Tx) AddReport(ctx context.Context, r Report) error {
	return tx.write(ctx, func(db *gorm.DB) error {
		return db.Create(&reportModel{ID: r.ID, JobID: r.JobID, Issued: r.Issued, Body: string(r.Body)}).Error
	})
}

// Reports returns the issued reports of a job, the oldest first.
func (tx *Tx) Reports(ctx context.Context, jobID string) ([]Report, error) {
	var rows []reportModel
	err := tx.on(ctx).Order("id").Find(&rows, "job_id = ?", jobID).Error
	list := make([]Report, len(rows))
	for i, r := range rows {
		list[i] = Report{ID: r.ID, JobID: r.JobID, Issued: r.Issued, Body: []byte(r.Body)}
	}
	return list, err
}

// NoteFolder records that a folder may contain a test file.
func (tx *Tx) NoteFolder(ctx context.Context, dir string) error {
	return tx.put(ctx, &folderModel{Dir: dir})
}

// Folders returns the folders that may contain a test file.
func (tx *Tx) Folders(ctx context.Context) ([]string, error) {
	var dirs []string
	err := tx.on(ctx).Model(&folderModel{}).Pluck("dir", &dirs).Error
	return dirs, err
}

// ForgetFolder removes that record.
func (tx *Tx) ForgetFolder(ctx context.Context, dir string) error {
	return tx.write(ctx, func(db *gorm.DB) error { return db.Delete(&folderModel{}, "dir = ?", dir).Error })
}

// SaveRound stores the state of a round; running means that it hasn't ended.
func (tx *Tx) SaveRound(ctx context.Context, id, jobID string, running bool, body []byte) error {
	tx.about(jobID)
	return tx.put(ctx, &roundModel{ID: id, JobID: jobID, Running: running, Body: string(body)})
}

// LastRound returns the last round of a job.
func (tx *Tx) LastRound(ctx context.Context, jobID string) ([]byte, error) {
	var r roundModel
	if err := tx.on(ctx).Order("id DESC").Take(&r, "job_id = ?", jobID).Error; err != nil {
		return nil, notFound("round", err)
	}
	return []byte(r.Body), nil
}

// Round is a round of measuring as it is stored.
type Round struct {
	ID, Job string
	Body    []byte
}

// RunningRounds returns the rounds that have not ended.
func (tx *Tx) RunningRounds(ctx context.Context) ([]Round, error) {
	var rows []roundModel
	err := tx.on(ctx).Find(&rows, "running = 1").Error
	list := make([]Round, len(rows))
	for i, r := range rows {
		list[i] = Round{r.ID, r.JobID, []byte(r.Body)}
	}
	return list, err
}

// SaveTechnician stores a technician.
func (tx *Tx) SaveTechnician(ctx context.Context, name string, body []byte) error {
	return tx.put(ctx, &technicianModel{Name: name, Body: string(body)})
}

// Technicians returns all technicians, by name.
func (tx *Tx) Technicians(ctx context.Context) ([][]byte, error) {
	var rows []technicianModel
	err := tx.on(ctx).Order("name").Find(&rows).Error
	bodies := make([][]byte, len(rows))
	for i, r := range rows {
		bodies[i] = []byte(r.Body)
	}
	return bodies, err
}

// Setting returns a setting of the shop; its absence is [ErrNotFound].
func (tx *Tx) Setting(ctx context.Context, name string) (string, error) {
	var r settingModel
	if err := tx.on(ctx).Take(&r, "name = ?", name).Error; err != nil {
		return "", notFound("setting "+name, err)
	}
	return r.Body, nil
}

// SaveSetting stores a setting of the shop.
func (tx *Tx) SaveSetting(ctx context.Context, name, body string) error {
	return tx.put(ctx, &settingModel{Name: name, Body: body})
}

// Session is a signed-in browser. Only the hash of the token is stored.
type Session struct {
	Token       string
	Since, Seen time.Time
}

// AddSession stores a session.
func (tx *Tx) AddSession(ctx context.Context, v Session) error {
	return tx.write(ctx, func(db *gorm.DB) error {
		return db.Create(&sessionModel{Token: v.Token, Since: v.Since, Seen: v.Seen}).Error
	})
}

// SeeSession records the use of a session. An ended one stays ended.
func (tx *Tx) SeeSession(ctx context.Context, token string, at time.Time) error {
	return tx.write(ctx, func(db *gorm.DB) error {
		return db.Model(&sessionModel{}).Where("token = ?", token).Select("seen").Updates(&sessionModel{Seen: at}).Error
	})
}

// Session returns the session of a hashed token.
func (tx *Tx) Session(ctx context.Context, token string) (*Session, error) {
	var r sessionModel
	if err := tx.on(ctx).Take(&r, "token = ?", token).Error; err != nil {
		return nil, notFound("session", err)
	}
	return &Session{Token: r.Token, Since: r.Since, Seen: r.Seen}, nil
}

// EndSession ends a session; an empty token ends all of them.
func (tx *Tx) EndSession(ctx context.Context, token string) error {
	return tx.write(ctx, func(db *gorm.DB) error {
		if token == "" {
			return db.Where("1 = 1").Delete(&sessionModel{}).Error
		}
		return db.Delete(&sessionModel{}, "token = ?", token).Error
	})
}

// SaveClip stores a clip's record; its bytes are elsewhere.
func (tx *Tx) SaveClip(ctx context.Context, id, jobID string, body []byte) error {
	tx.about(jobID)
	return tx.put(ctx, &clipModel{ID: id, JobID: jobID, Body: string(body)})
}

// Clip returns the record of a job's clip.
func (tx *Tx) Clip(ctx context.Context, jobID, id string) ([]byte, error) {
	var r clipModel
	if err := tx.on(ctx).Take(&r, "id = ? AND job_id = ?", id, jobID).Error; err != nil {
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
func (tx *Tx) Clips(ctx context.Context, jobID string) ([]StoredClip, error) {
	db := tx.on(ctx).Order("id")
	if jobID != "" {
		db = db.Where("job_id = ?", jobID)
	}
	var rows []clipModel
	err := db.Find(&rows).Error
	list := make([]StoredClip, len(rows))
	for i, r := range rows {
		list[i] = StoredClip{r.JobID, []byte(r.Body)}
	}
	return list, err
}
