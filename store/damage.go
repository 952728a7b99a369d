package store

import (
	"context"
	"errors"
	"fmt"
	"net/url"

	driver "modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// ErrDamaged means that stored data can't be read.
var ErrDamaged = errors.New("it is damaged")

// Damaged is a job that can't be read, and why. Number is "" if even that is lost.
type Damaged struct {
	ID     string `json:"id"`
	Number string `json:"number"`
	Why    string `json:"why"`
}

// damaged wraps the reason why something can't be read.
func damaged(why error) error { return fmt.Errorf("%w: %w", ErrDamaged, why) }

// IsDamaged reports whether an error says that what is stored cannot be read: a row that does
// not decode, or pages of the file that are not SQLite's.
func IsDamaged(err error) bool {
	if errors.Is(err, ErrDamaged) {
		return true
	}
	var of *driver.Error
	if !errors.As(err, &of) {
		return false
	}
	code := of.Code() & 0xff
	return code == sqlite3.SQLITE_CORRUPT || code == sqlite3.SQLITE_NOTADB
}

// damage describes a job that cannot be read.
func (tx *Tx) damage(ctx context.Context, id string, why error) Damaged {
	d := Damaged{ID: id, Why: why.Error()}
	var numbers []string
	if err := tx.on(ctx).Model(&jobModel{}).Where("id = ?", id).Pluck("number", &numbers).Error; err == nil &&
		len(numbers) > 0 {
		d.Number = numbers[0]
	}
	return d
}

// DamagedIn returns the jobs in a database file that cannot be read, without changing the file.
func DamagedIn(ctx context.Context, path string) ([]Damaged, error) {
	s, err := connect("file:"+(&url.URL{Path: path}).EscapedPath()+"?mode=ro&immutable=1", path, nil)
	if err != nil {
		return nil, err
	}
	defer s.Close()
	var ids []string
	if err := s.on(ctx).Model(&jobModel{}).Order("id").Pluck("id", &ids).Error; err != nil {
		return nil, err
	}
	var list []Damaged
	for _, id := range ids {
		if _, _, err := s.Job(ctx, id); IsDamaged(err) {
			list = append(list, s.damage(ctx, id, err))
		} else if err != nil {
			return nil, err
		}
	}
	return list, nil
}
