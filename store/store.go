// Package store keeps jobs in an SQLite file: write-ahead log, foreign keys, versioned
// migrations, and every change on disk before its call returns.
//
// A row holds the columns that relations and searches need, and the rest of an item as the JSON
// of the core's type, which preserves members unknown to this version. Runs are appended and
// never rewritten, except for setting them aside. A run's trace is only needed for drawing and
// is stored apart; a job with many runs is read without it.
//
// Changes that belong together are made within one [Store.Write], by the methods of its [Tx].
// The package knows the core's types and nothing of use cases or HTTP.
package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/url"
	"os"
	"sync"
	"syscall"
	"time"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	driver "modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// Store is an open database.
type Store struct {
	Tx
	path string
	// writing serialises changes without SQLite's own waiting, which sleeps.
	writing sync.Mutex
}

// Errors of a store.
var (
	// ErrNotFound means that there is no such job, report or timer.
	ErrNotFound = errors.New("not found")
	// ErrOlder means that a database has an earlier version and migration wasn't allowed.
	ErrOlder = errors.New("the database is of an earlier version")
	// ErrNewer means that a database is of a later version than this program.
	ErrNewer = errors.New("the database is of a later version than this program")
)

// Options of opening a database.
type Options struct {
	// Migrate creates or migrates the database; without it, an older one is refused. Migrating requires exclusive
	// use of the data folder.
	Migrate bool
	// Log gets slow and failed statements; nil logs nothing.
	Log *slog.Logger
}

// slow is the duration from which a statement is logged.
const slow = 200 * time.Millisecond

// Open opens the database file. The file is its owner's alone.
func Open(path string, o Options) (*Store, error) {
	if err := own(path, o.Migrate); err != nil {
		return nil, fmt.Errorf("opening the database: %w", err)
	}
	var log logger.Interface
	if o.Log != nil {
		log = logger.NewSlogLogger(o.Log,
			logger.Config{SlowThreshold: slow, LogLevel: logger.Warn, IgnoreRecordNotFoundError: true,
				ParameterizedQueries: true})
	}
	dsn := "file:" + (&url.URL{Path: path}).EscapedPath() +
		"?_pragma=foreign_keys(1)&_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=busy_timeout(10000)&_pragma=cache_size(-16000)&_txlock=immediate"
	s, err := connect(dsn, path, log)
	if err != nil {
		return nil, err
	}
	if err := s.upToDate(o.Migrate); err != nil {
		return nil, errors.Join(fmt.Errorf("bringing the database %s up to date: %w", path, err), s.Close())
	}
	return s, nil
}

// Connections to the database file. Each uses file descriptors, which are limited; readers wait for a free
// connection.
const (
	maxConns  = 32
	idleConns = 8
)

// connect opens a database by its DSN; a nil log logs nothing.
func connect(dsn, path string, log logger.Interface) (*Store, error) {
	if log == nil {
		log = logger.Discard
	}
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{
		Logger:                 log,
		SkipDefaultTransaction: true,
		PrepareStmt:            true,
		TranslateError:         true,
	})
	if err != nil {
		return nil, fmt.Errorf("opening the database %s: %w", path, err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(maxConns)
	pool.SetMaxIdleConns(idleConns)
	s := &Store{Tx: Tx{db: db}, path: path}
	s.store = s
	return s, nil
}

// own creates the file if necessary and removes other users' rights to it.
// SQLite gives its side files the rights of the database.
func own(path string, create bool) error {
	flags := os.O_RDWR
	if create {
		flags |= os.O_CREATE
	}
	f, err := os.OpenFile(path, flags, 0o600)
	if err != nil {
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	for _, side := range []string{"", "-wal", "-shm"} {
		if err := os.Chmod(path+side, 0o600); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
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

// Tx is what statements run on: a transaction, a read snapshot, or, as part of a [Store], the database itself.
// Each write through a Store is a separate transaction.
type Tx struct {
	db    *gorm.DB
	store *Store
	// within: it is a transaction or a snapshot.
	within  bool
	command *Command // that the change is the first of; nil for none
	after   []func() // what is done once the change is stored
}

// on returns what statements run on.
func (tx *Tx) on(ctx context.Context) *gorm.DB { return tx.db.WithContext(ctx) }

// Write runs do in one transaction. If it belongs to a command that was executed before, do isn't called and
// the error is [*Repeated]. A nil command is none.
func (s *Store) Write(ctx context.Context, c *Command, do func(tx *Tx) error) error {
	s.writing.Lock()
	defer s.writing.Unlock()
	tx := &Tx{store: s, within: true}
	err := s.db.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		tx.db = db
		if c == nil || c.kept {
			return do(tx)
		}
		tx.command = c
		if err := tx.repeated(ctx, c); err != nil {
			return err
		}
		if err := do(tx); err != nil {
			return err
		}
		c.kept = true
		return tx.keep(ctx, c)
	})
	if err == nil {
		for _, f := range tx.after {
			f()
		}
	}
	return err
}

// After calls do once the transaction is committed, before any other begins, and not if it fails; at once
// outside of a transaction.
func (tx *Tx) After(do func()) {
	if tx.within {
		tx.after = append(tx.after, do)
		return
	}
	do()
}

// read runs do on a snapshot of the database, without blocking.
func (tx *Tx) read(ctx context.Context, do func(tx *Tx) error) error {
	if tx.within {
		return do(tx)
	}
	return tx.db.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		return do(&Tx{db: db, store: tx.store, within: true})
	}, &sql.TxOptions{ReadOnly: true})
}

// write runs a statement as part of the change, or as one of its own.
func (tx *Tx) write(ctx context.Context, do func(db *gorm.DB) error) error {
	if tx.within {
		return do(tx.on(ctx))
	}
	return tx.store.Write(ctx, nil, func(tx *Tx) error { return do(tx.on(ctx)) })
}

func notFound(what string, err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return fmt.Errorf("%s: %w", what, ErrNotFound)
	}
	return err
}

// IsFull reports whether an error means that the drive has no space for a change. Nothing of the change is
// stored then.
func IsFull(err error) bool {
	var of *driver.Error
	return errors.Is(err, syscall.ENOSPC) || errors.As(err, &of) && of.Code()&0xff == sqlite3.SQLITE_FULL
}
