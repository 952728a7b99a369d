package main

import (
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"

	"github.com/gofrs/flock"
	"github.com/spf13/cobra"

	"nowthen/backup"
	"nowthen/durable"
	"nowthen/store"
)

func dataFlag(cmd *cobra.Command, dir *string) {
	def := "nowthen-data"
	if base, err := os.UserConfigDir(); err == nil {
		def = filepath.Join(base, "nowthen")
	}
	cmd.Flags().StringVar(dir, "data", def, "folder that holds the database")
}

// errServed means that another program uses the folder.
var errServed = errors.New("another nowthen uses it already")

// lockData makes a data folder private to its owner and locks it for one program.
func lockData(dir string) (unlock func(), err error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("making the data folder: %w", err)
	}
	if err := os.Chmod(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder: %w", err)
	}
	lock := flock.New(filepath.Join(dir, "serving.lock"), flock.SetPermissions(0o600))
	alone, err := lock.TryLock()
	if err != nil {
		return nil, fmt.Errorf("locking the data folder: %w", err)
	}
	if !alone {
		return nil, fmt.Errorf("%s: %w", dir, errServed)
	}
	return func() { _ = lock.Unlock() }, nil
}

// sweepParts removes what an interrupted backup, restore or copy left beside and in a data folder.
func sweepParts(data string, log *slog.Logger) error {
	for _, dir := range []string{filepath.Dir(filepath.Clean(data)), data, filepath.Join(data, backup.Folder),
		filepath.Join(data, backup.Clips)} {
		removed, err := durable.Sweep(dir)
		if err != nil {
			return fmt.Errorf("removing what was left half done: %w", err)
		}
		for _, name := range removed {
			log.Info("removed leftovers of an interrupted backup or restore", "folder", dir, "name", name)
		}
	}
	return nil
}

// openStore opens the database in a folder. If no bench serves it, it is created or
// brought up to date; beside a server it is taken as it is. Nothing else of the folder
// is touched.
func openStore(dir string) (s *store.Store, done func(), err error) {
	unlock, err := lockData(dir)
	served := errors.Is(err, errServed)
	if err != nil && !served {
		return nil, nil, err
	}
	s, err = store.Open(filepath.Join(dir, backup.Database), store.Options{Migrate: !served})
	if errors.Is(err, fs.ErrNotExist) {
		err = fmt.Errorf("there is no bench in %s", dir)
	}
	if err != nil {
		if unlock != nil {
			unlock()
		}
		return nil, nil, err
	}
	return s, func() {
		_ = s.Close()
		if unlock != nil {
			unlock()
		}
	}, nil
}

// openServed opens the database of a folder that is locked already.
func openServed(dir string, log *slog.Logger) (*store.Store, error) {
	return store.Open(filepath.Join(dir, backup.Database), store.Options{Migrate: true, Log: log})
}
