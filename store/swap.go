package store

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// KeepLists stores the lists of which of a job's files came across, until a day; they replace earlier ones.
func (tx *Tx) KeepLists(ctx context.Context, jobID string, until time.Time, body []byte) error {
	tx.about(jobID)
	return tx.write(ctx, func(db *gorm.DB) error {
		return db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&carriedListsModel{JobID: jobID, Until: until,
			Body: string(body)}).Error
	})
}

// Lists returns the lists of a job and until when they are kept; ErrNotFound if there are none.
func (tx *Tx) Lists(ctx context.Context, jobID string, now time.Time) (body []byte, until time.Time, err error) {
	var m carriedListsModel
	if err := tx.on(ctx).Take(&m, "job_id = ?", jobID).Error; err != nil {
		return nil, time.Time{}, notFound("lists", err)
	}
	if !m.Until.After(now) {
		return nil, time.Time{}, notFound("lists", gorm.ErrRecordNotFound)
	}
	return []byte(m.Body), m.Until, nil
}

// KeepFileList stores the list of the files of a job's old drive until a day, with what is told of it; it replaces an
// earlier one.
func (tx *Tx) KeepFileList(ctx context.Context, jobID string, until time.Time, told, list []byte) error {
	tx.about(jobID)
	return tx.write(ctx, func(db *gorm.DB) error {
		return db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&fileListModel{JobID: jobID, Until: until,
			Told: string(told), List: list}).Error
	})
}

// ToldFileList returns what is told of the list of a job's files; ErrNotFound if there is none.
func (tx *Tx) ToldFileList(ctx context.Context, jobID string, now time.Time) (told []byte, until time.Time, err error) {
	m, err := tx.fileList(ctx, jobID, now, "job_id", "until", "told")
	return []byte(m.Told), m.Until, err
}

// FileList returns the list of a job's files with what is told of it; ErrNotFound if there is none.
func (tx *Tx) FileList(ctx context.Context, jobID string, now time.Time) (told, list []byte, err error) {
	m, err := tx.fileList(ctx, jobID, now)
	return []byte(m.Told), m.List, err
}

func (tx *Tx) fileList(ctx context.Context, jobID string, now time.Time, columns ...string) (m fileListModel, err error) {
	if err := tx.on(ctx).Select(columns).Take(&m, "job_id = ?", jobID).Error; err != nil {
		return m, notFound("list of files", err)
	}
	if !m.Until.After(now) {
		return m, notFound("list of files", gorm.ErrRecordNotFound)
	}
	return m, nil
}

// DropLists deletes expired lists of file names, and returns how many.
func (tx *Tx) DropLists(ctx context.Context, now time.Time) (n int, err error) {
	carried, err := expired(ctx, tx, now, func(m *carriedListsModel) time.Time { return m.Until })
	if err != nil {
		return 0, err
	}
	listed, err := expired(ctx, tx, now, func(m *fileListModel) time.Time { return m.Until })
	if err != nil || len(carried)+len(listed) == 0 { // as a rule: nothing is written for it
		return 0, err
	}
	return len(carried) + len(listed), tx.write(ctx, func(db *gorm.DB) error {
		if len(carried) > 0 {
			if err := db.Delete(&carried).Error; err != nil {
				return err
			}
		}
		if len(listed) > 0 {
			return db.Delete(&listed).Error
		}
		return nil
	})
}

// expired returns the rows of lists whose day has come.
func expired[M any](ctx context.Context, tx *Tx, now time.Time, until func(*M) time.Time) ([]M, error) {
	var all []M
	if err := tx.on(ctx).Select("job_id", "until").Find(&all).Error; err != nil {
		return nil, err
	}
	return slices.DeleteFunc(all, func(m M) bool { return until(&m).After(now) }), nil
}

// modelName normalizes the name of a computer model, however it was typed.
func modelName(maker, model string) string {
	return strings.ToLower(strings.Join(strings.Fields(maker), " ") + "\n" + strings.Join(strings.Fields(model), " "))
}

// Model returns what the shop knows about a computer model; nil if nothing.
func (tx *Tx) Model(ctx context.Context, maker, model string) ([]byte, error) {
	var m modelModel
	err := tx.on(ctx).Take(&m, "name = ?", modelName(maker, model)).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, nil
	}
	return []byte(m.Body), err
}

// KeepModel stores what the shop knows about a computer model.
func (tx *Tx) KeepModel(ctx context.Context, maker, model string, body []byte) error {
	return tx.write(ctx, func(db *gorm.DB) error {
		return db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&modelModel{Name: modelName(maker, model),
			Body: string(body)}).Error
	})
}
