package store

import "context"

// PhotoInfo describes a picture without its content.
type PhotoInfo struct {
	ID, Type string
	Bytes    int64
}

// Photos returns the pictures of a job in the order in which they came.
func (tx *Tx) Photos(ctx context.Context, jobID string) (list []PhotoInfo, err error) {
	err = tx.on(ctx).Model(&photoModel{}).Select("id, type, length(body) AS bytes").Where("job_id = ?",
		jobID).Order("id").Scan(&list).Error
	return list, err
}

// MediaTaken reports whether a picture or clip of any job has an id.
func (tx *Tx) MediaTaken(ctx context.Context, id string) (bool, error) {
	var n int64
	for _, table := range []any{&photoModel{}, &clipModel{}} {
		if err := tx.on(ctx).Model(table).Where("id = ?", id).Count(&n).Error; err != nil || n > 0 {
			return n > 0, err
		}
	}
	return false, nil
}
