// Package store keeps jobs in an SQLite file: write-ahead log, foreign keys,
// versioned migrations, and every change on disk before its call returns.
//
// A row holds what relations and searches need as columns and the rest of an item
// as the JSON of the core's type, so that members unknown to this version survive.
// Runs are appended and never written again, but for their being set aside; what
// of a run is only drawn (its trace) lies apart, so that a job of many runs is
// read without it.
//
// Changes that belong together are made within one [Store.Write]; the methods take
// part in it through the context that it hands on. The package knows the core's
// types and nothing of use cases or HTTP.
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
	db   *gorm.DB
	path string
	// writing lets one change go after another without SQLite's own waiting, which
	// sleeps.
	writing sync.Mutex
}

// Errors of a store.
var (
	// ErrNotFound says that there is no such job, report or timer.
	ErrNotFound = errors.New("not found")
	// ErrOlder says that a database is of an earlier version and was not to be
	// brought up to date.
	ErrOlder = errors.New("the database is of an earlier version")
	// ErrNewer says that a database is of a later version than this program.
	ErrNewer = errors.New("the database is of a later version than this program")
)

// Options of opening a database.
type Options struct {
	// Migrate makes the database, or brings it up to date; without it one that is
	// not is refused. Whoever migrates must be alone on the data folder.
	Migrate bool
	// Log is told of statements that are slow or fail; nil tells nobody.
	Log *slog.Logger
}

// slow is from when on a statement is worth a line in the log.
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

// Connections to the database file. Each holds a file descriptor or more, of which a process
// has a bounded number; a reader that finds none waits for one.
const (
	maxConns  = 32
	idleConns = 8
)

// connect opens a database as its DSN says; a nil log is told nothing.
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
	return &Store{db: db, path: path}, nil
}

// own makes the file where need be and takes from others what they may do with it.
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

// txKey is where a context carries the transaction that it is within.
type txKey struct{}

// within returns the transaction that the context is within, or nil.
func within(ctx context.Context) *gorm.DB {
	tx, _ := ctx.Value(txKey{}).(*gorm.DB)
	return tx
}

// on returns what statements of a context run on.
func (s *Store) on(ctx context.Context) *gorm.DB {
	if tx := within(ctx); tx != nil {
		return tx.WithContext(ctx)
	}
	return s.db.WithContext(ctx)
}

// Write makes changes that stand together or not at all: do is given a context
// under which the store's methods take part. Where the context carries a command
// ([Repeatable]) that was done before, do is not called and the error is
// [*Repeated].
func (s *Store) Write(ctx context.Context, do func(context.Context) error) error {
	if within(ctx) != nil {
		return do(ctx)
	}
	s.writing.Lock()
	defer s.writing.Unlock()
	done := &committed{}
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		ctx := context.WithValue(context.WithValue(ctx, txKey{}, tx), committedKey{}, done)
		c := commandOf(ctx)
		if c == nil || c.kept {
			return do(ctx)
		}
		if err := s.repeated(ctx, c); err != nil {
			return err
		}
		if err := do(ctx); err != nil {
			return err
		}
		c.kept = true
		return s.keep(ctx, c)
	})
	if err == nil {
		for _, f := range done.then {
			f()
		}
	}
	return err
}

// committedKey is where a context carries what is done once the change that it is within is stored.
type committedKey struct{}

type committed struct{ then []func() }

// AfterCommit does something once the change that a context is within is stored, before any other
// change begins; at once where it
// is within none, and never where the change fails.
func AfterCommit(ctx context.Context, do func()) {
	if c, ok := ctx.Value(committedKey{}).(*committed); ok {
		c.then = append(c.then, do)
		return
	}
	do()
}

// read lets statements see the database as it was at one moment. It waits for
// nobody.
func (s *Store) read(ctx context.Context, do func(context.Context) error) error {
	if within(ctx) != nil {
		return do(ctx)
	}
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return do(context.WithValue(ctx, txKey{}, tx))
	}, &sql.TxOptions{ReadOnly: true})
}

// write is Write for a single statement.
func (s *Store) write(ctx context.Context, do func(db *gorm.DB) error) error {
	return s.Write(ctx, func(ctx context.Context) error { return do(s.on(ctx)) })
}

func notFound(what string, err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return fmt.Errorf("%s: %w", what, ErrNotFound)
	}
	return err
}

// IsFull tells whether an error says that the drive has no room for a change. Nothing of
// the change is stored then.
func IsFull(err error) bool {
	var of *driver.Error
	return errors.Is(err, syscall.ENOSPC) || errors.As(err, &of) && of.Code()&0xff == sqlite3.SQLITE_FULL
}
