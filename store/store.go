// Package store keeps jobs in an SQLite file: write-ahead log, foreign keys,
// versioned migrations, and every change on disk before its call returns.
//
// A row holds what relations and searches need as columns and the rest of an
// item as the JSON of the core's type, so that members unknown to this version
// survive. The package knows the core's types and nothing of use cases or HTTP.
package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"time"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	_ "modernc.org/sqlite" // the driver

	"nowthen/core/job"
)

// Store is an open database.
type Store struct{ db *gorm.DB }

// ErrNotFound says that there is no such job, report or timer.
var ErrNotFound = errors.New("not found")

// Open opens the database file, making or migrating it as need be.
func Open(path string) (*Store, error) {
	dsn := "file:" + (&url.URL{Path: path}).EscapedPath() +
		"?_pragma=foreign_keys(1)&_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=busy_timeout(10000)&_txlock=immediate"
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{
		Logger:                 logger.Discard,
		SkipDefaultTransaction: true,
		PrepareStmt:            true,
		TranslateError:         true,
	})
	if err != nil {
		return nil, fmt.Errorf("opening the database %s: %w", path, err)
	}
	s := &Store{db: db}
	if err := migrate(db); err != nil {
		_ = s.Close()
		return nil, fmt.Errorf("bringing the database %s up to date: %w", path, err)
	}
	return s, nil
}

// Close closes the database.
func (s *Store) Close() error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.Close()
}

// Integrity returns what SQLite's own check of the file finds; nothing where
// it is whole.
func (s *Store) Integrity(ctx context.Context) ([]string, error) {
	var found []string
	for _, pragma := range []string{"integrity_check", "foreign_key_check"} {
		var rows []map[string]any
		if err := s.db.WithContext(ctx).Raw("PRAGMA " + pragma).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			if r["integrity_check"] != "ok" {
				found = append(found, fmt.Sprint(r))
			}
		}
	}
	return found, nil
}

// Entry is a job with the id it has here.
type Entry struct {
	ID  string
	Job *job.Job
}

// Add stores a new job under an id.
func (s *Store) Add(ctx context.Context, id string, j *job.Job) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return write(tx, id, nil, j)
	})
}

// Job returns a job.
func (s *Store) Job(ctx context.Context, id string) (*job.Job, error) {
	var j *job.Job
	// One read transaction: a job is seen as it was at one moment.
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) (err error) {
		jobs, err := load(tx, tx.Where("id = ?", id))
		if err == nil && len(jobs) == 0 {
			err = fmt.Errorf("job %s: %w", id, ErrNotFound)
		}
		if err == nil {
			j = jobs[0].Job
		}
		return err
	}, reading)
	return j, err
}

// reading makes a transaction wait for nobody.
var reading = &sql.TxOptions{ReadOnly: true}

// Update changes a job: change is given the job as it is and alters it. Where
// it or the job's own rules object, nothing is stored.
func (s *Store) Update(ctx context.Context, id string, change func(*job.Job) error) (*job.Job, error) {
	var after *job.Job
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		jobs, err := load(tx, tx.Where("id = ?", id))
		if err != nil {
			return err
		}
		if len(jobs) == 0 {
			return fmt.Errorf("job %s: %w", id, ErrNotFound)
		}
		after = jobs[0].Job
		before, err := partsOf(after)
		if err != nil {
			return err
		}
		if err := change(after); err != nil {
			return err
		}
		return write(tx, id, before, after)
	})
	if err != nil {
		return nil, err
	}
	return after, nil
}

// Which jobs a search is about.
const (
	OpenJobs     = "open"
	FinishedJobs = "finished"
	AllJobs      = "all"
)

// Found is a job that a search found, with the number of its last change.
type Found struct {
	ID       string
	Revision int64
}

// Search returns jobs, the newest first: those in a state whose customer,
// computer, drives, number or reason hold every word of the query, and how many
// there are in all. A limit of 0 means all.
func (s *Store) Search(ctx context.Context, state string, words []string, limit int) (found []Found, total int, err error) {
	q := s.db.WithContext(ctx).Model(&jobRow{})
	switch state {
	case OpenJobs:
		q = q.Where("finished = 0")
	case FinishedJobs:
		q = q.Where("finished = 1")
	}
	for _, w := range words {
		q = q.Where("instr(search, ?) > 0", fold(w))
	}
	if err := q.Order("opened DESC, id DESC").Select("id", "revision").Find(&found).Error; err != nil {
		return nil, 0, err
	}
	total = len(found)
	if limit > 0 && total > limit {
		found = found[:limit]
	}
	return found, total, nil
}

// Jobs returns jobs by id, whole, in no order; an id that is not there is left out.
func (s *Store) Jobs(ctx context.Context, ids []string) ([]Entry, error) {
	var jobs []Entry
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// SQLite takes a bounded number of parameters in one statement.
		for part := range slices.Chunk(ids, 500) {
			some, err := load(tx, tx.Where("id IN ?", part))
			if err != nil {
				return err
			}
			jobs = append(jobs, some...)
		}
		return nil
	}, reading)
	return jobs, err
}

// SaveTemplate stores a template of the shop.
func (s *Store) SaveTemplate(ctx context.Context, id string, body []byte) error {
	return s.db.WithContext(ctx).Save(&templateRow{ID: id, Body: string(body)}).Error
}

// Templates returns the shop's templates in the order in which they were made.
func (s *Store) Templates(ctx context.Context) ([][]byte, error) {
	var bodies [][]byte
	var rows []templateRow
	err := s.db.WithContext(ctx).Order("id").Find(&rows).Error
	for _, r := range rows {
		bodies = append(bodies, []byte(r.Body))
	}
	return bodies, err
}

// DropTemplate forgets a template of the shop.
func (s *Store) DropTemplate(ctx context.Context, id string) error {
	res := s.db.WithContext(ctx).Delete(&templateRow{}, "id = ?", id)
	if res.Error == nil && res.RowsAffected == 0 {
		return fmt.Errorf("template: %w", ErrNotFound)
	}
	return res.Error
}

// AddPhoto stores a picture of a job.
func (s *Store) AddPhoto(ctx context.Context, id, jobID, kind string, body []byte) error {
	return s.db.WithContext(ctx).Create(&photoRow{ID: id, JobID: jobID, Type: kind, Body: body}).Error
}

// Photo returns a picture of a job and its type.
func (s *Store) Photo(ctx context.Context, jobID, id string) (kind string, body []byte, err error) {
	var r photoRow
	if err := s.db.WithContext(ctx).Take(&r, "id = ? AND job_id = ?", id, jobID).Error; err != nil {
		return "", nil, notFound("photo", err)
	}
	return r.Type, r.Body, nil
}

// Numbers returns the numbers of all jobs that begin with a prefix.
func (s *Store) Numbers(ctx context.Context, prefix string) ([]string, error) {
	var numbers []string
	err := s.db.WithContext(ctx).Model(&jobRow{}).Where("substr(number, 1, ?) = ?", len([]rune(prefix)), prefix).Pluck("number", &numbers).Error
	return numbers, err
}

// SaveTimer stores the state of a job's timer.
func (s *Store) SaveTimer(ctx context.Context, jobID string, body []byte) error {
	return s.db.WithContext(ctx).Save(&timerRow{JobID: jobID, Body: string(body)}).Error
}

// Timer returns the state of a job's timer.
func (s *Store) Timer(ctx context.Context, jobID string) ([]byte, error) {
	var t timerRow
	if err := s.db.WithContext(ctx).Take(&t, "job_id = ?", jobID).Error; err != nil {
		return nil, notFound("timer", err)
	}
	return []byte(t.Body), nil
}

// DropTimer forgets a job's timer.
func (s *Store) DropTimer(ctx context.Context, jobID string) error {
	return s.db.WithContext(ctx).Delete(&timerRow{}, "job_id = ?", jobID).Error
}

// Report is a report as it was issued.
type Report struct {
	ID     string
	JobID  string
	Issued time.Time
	Body   []byte
}

// AddReport stores an issued report, which is never changed.
func (s *Store) AddReport(ctx context.Context, r Report) error {
	return s.db.WithContext(ctx).Create(&reportRow{ID: r.ID, JobID: r.JobID, Issued: r.Issued.Format(time.RFC3339Nano), Body: string(r.Body)}).Error
}

// LastReport returns the report of a job that was issued last.
func (s *Store) LastReport(ctx context.Context, jobID string) (*Report, error) {
	var r reportRow
	if err := s.db.WithContext(ctx).Order("id DESC").Take(&r, "job_id = ?", jobID).Error; err != nil {
		return nil, notFound("report", err)
	}
	issued, err := time.Parse(time.RFC3339Nano, r.Issued)
	return &Report{ID: r.ID, JobID: r.JobID, Issued: issued, Body: []byte(r.Body)}, err
}

// NoteFolder remembers that a folder may hold a test file from now on.
func (s *Store) NoteFolder(ctx context.Context, dir string) error {
	return s.db.WithContext(ctx).Save(&folderRow{Dir: dir}).Error
}

// Folders returns the folders that may hold a test file.
func (s *Store) Folders(ctx context.Context) ([]string, error) {
	var dirs []string
	err := s.db.WithContext(ctx).Model(&folderRow{}).Pluck("dir", &dirs).Error
	return dirs, err
}

// ForgetFolder says that a folder holds no test file any more.
func (s *Store) ForgetFolder(ctx context.Context, dir string) error {
	return s.db.WithContext(ctx).Delete(&folderRow{}, "dir = ?", dir).Error
}

func notFound(what string, err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return fmt.Errorf("%s: %w", what, ErrNotFound)
	}
	return err
}
