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

// DropLists deletes expired lists, and returns how many.
func (tx *Tx) DropLists(ctx context.Context, now time.Time) (n int, err error) {
	var all []carriedListsModel
	if err := tx.on(ctx).Select("job_id", "until").Find(&all).Error; err != nil {
		return 0, err
	}
	all = slices.DeleteFunc(all, func(m carriedListsModel) bool { return m.Until.After(now) })
	if len(all) == 0 { // as a rule: nothing is written for it
		return 0, nil
	}
	return len(all), tx.write(ctx, func(db *gorm.DB) error { return db.Delete(&all).Error })
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
