package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"gorm.io/gorm"
)

// Command is a change that a caller may repeat. Its key belongs to the caller and the route, its fingerprint to
// the body. It is stored in the transaction of the change, which makes a repeat recognisable whatever happened
// in between.
type Command struct {
	key, print string
	kept       bool
	job        string
	made       string
	answer     any
}

// Made is the path of the resource that the command created, "" if none.
func (c *Command) Made() string { return c.made }

// NewCommand returns a command of a caller on a route under the caller's own key,
// with the bytes that were sent. Without a key it isn't stored.
func NewCommand(caller, route, key string, sent ...[]byte) *Command {
	if key == "" {
		return &Command{}
	}
	h := sha256.New()
	for _, b := range sent {
		fmt.Fprintf(h, "%d:", len(b))
		h.Write(b)
	}
	id := sha256.Sum256([]byte(strings.Join([]string{caller, route, key}, "\x00")))
	return &Command{key: hex.EncodeToString(id[:]), print: hex.EncodeToString(h.Sum(nil))}
}

// Made sets the path of the resource that the change's command creates, relative to the root of the API.
func (tx *Tx) Made(path string) {
	if tx.command != nil {
		tx.command.made = path
	}
}

// Answer sets the answer of the change's command, which is stored with it. Without it, a repeat is answered
// with the current state of the changed job.
func (tx *Tx) Answer(v any) {
	if tx.command != nil {
		tx.command.answer = v
	}
}

// about stores which job the change's command is about.
func (tx *Tx) about(jobID string) {
	if tx.command != nil {
		tx.command.job = jobID
	}
}

// Repeated means that a command was executed before: the job that it changed, and its stored answer (nil if
// there is none).
type Repeated struct {
	Job    string
	Made   string // the path of what it made
	Answer []byte
}

func (r *Repeated) Error() string { return "that was done already" }

// ErrOtherCommand means that a key was used before for something else.
var ErrOtherCommand = errors.New("the key was used before for something else")

// commandModel is an executed command.
type commandModel struct {
	Key    string `gorm:"primaryKey"`
	Print  string
	JobID  string
	Made   string
	Answer string
	At     time.Time `gorm:"serializer:instant"`
}

func (commandModel) TableName() string { return "commands" }

// Done returns [*Repeated] if a command was executed before, [ErrOtherCommand] if its key was used for another
// one, and nil if it is new.
func (tx *Tx) Done(ctx context.Context, c *Command) error { return tx.repeated(ctx, c) }

func (tx *Tx) repeated(ctx context.Context, c *Command) error {
	if c.key == "" {
		return nil
	}
	var rows []commandModel
	if err := tx.on(ctx).Limit(1).Find(&rows, "key = ?", c.key).Error; err != nil || len(rows) == 0 {
		return err
	}
	if rows[0].Print != c.print {
		return ErrOtherCommand
	}
	r := &Repeated{Job: rows[0].JobID, Made: rows[0].Made}
	if rows[0].Answer != "" {
		r.Answer = []byte(rows[0].Answer)
	}
	return r
}

func (tx *Tx) keep(ctx context.Context, c *Command) error {
	if c.key == "" {
		return nil
	}
	row := commandModel{Key: c.key, Print: c.print, JobID: c.job, Made: c.made, At: time.Now()}
	if c.answer != nil {
		body, err := json.Marshal(c.answer)
		if err != nil {
			return err
		}
		row.Answer = string(body)
	}
	return tx.on(ctx).Create(&row).Error
}

// ForgetCommands deletes commands executed before a time.
func (tx *Tx) ForgetCommands(ctx context.Context, before time.Time) error {
	return tx.write(ctx, func(db *gorm.DB) error { return db.Delete(&commandModel{}, "at < ?", stamp(before)).Error })
}
