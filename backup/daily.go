package backup

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

// Folder holds the daily backups, beside the data.
const Folder = "backups"

// kept is how many daily backups are kept.
const kept = 7

// reserve stays free on the drive, bytes: a backup must not be what fills it.
const reserve = 2e9

// Copy is a daily backup that is there.
type Copy struct {
	Name  string    `json:"name"`
	Made  time.Time `json:"made"`
	Bytes int64     `json:"bytes"`
}

// State is how the daily backups stand.
type State struct {
	Kept   int    `json:"kept"`   // how many are kept
	Copies []Copy `json:"copies"` // the newest first
	// Problem says why the last one was not made, or "".
	Problem string `json:"problem"`
}

// Daily makes a backup a day of the database (photos and settings are in it, clips
// are not) and keeps the last seven.
type Daily struct {
	DB   Source
	Data string // the data folder
	Log  *slog.Logger
	Free func(dir string) (int64, error) // bytes that are free there

	mu      sync.Mutex
	problem string
}

// name is that of a day's backup.
func name(day time.Time) string { return "nowthen-" + day.Format(time.DateOnly) + ".zip" }

// Run makes a backup whenever a day has none yet, until the context ends.
func (d *Daily) Run(ctx context.Context) {
	tick := time.NewTicker(time.Hour)
	defer tick.Stop()
	for {
		if err := d.Make(ctx, time.Now()); err != nil && ctx.Err() == nil {
			d.Log.Error("the daily backup was not made", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// Make makes a day's backup unless it is there, and removes the oldest beyond those
// that are kept.
func (d *Daily) Make(ctx context.Context, day time.Time) (err error) {
	defer func() {
		d.mu.Lock()
		defer d.mu.Unlock()
		d.problem = ""
		if err != nil {
			d.problem = err.Error()
		}
	}()
	dir := filepath.Join(d.Data, Folder)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	out := filepath.Join(dir, name(day))
	if _, err := os.Stat(out); err == nil {
		return nil
	}
	if err := d.room(dir); err != nil {
		return err
	}
	if _, err := Write(ctx, d.DB, d.Data, out, false); err != nil {
		return err
	}
	copies, err := d.copies()
	if err != nil {
		return err
	}
	for _, c := range copies[min(kept, len(copies)):] {
		if err := os.Remove(filepath.Join(dir, c.Name)); err != nil {
			return err
		}
	}
	return nil
}

// room refuses to fill the drive: the copy and its zip lie there for a moment.
func (d *Daily) room(dir string) error {
	info, err := os.Stat(filepath.Join(d.Data, Database))
	if err != nil {
		return err
	}
	free, err := d.Free(dir)
	if err != nil {
		return err
	}
	if need := 2*info.Size() + reserve; free < need {
		return fmt.Errorf("there is too little room for it: %d MB are free, %d are needed", free/1e6, need/1e6)
	}
	return nil
}

// copies are the daily backups that are there, the newest first.
func (d *Daily) copies() ([]Copy, error) {
	entries, err := os.ReadDir(filepath.Join(d.Data, Folder))
	if errors.Is(err, fs.ErrNotExist) {
		return []Copy{}, nil
	}
	if err != nil {
		return nil, err
	}
	list := []Copy{}
	for _, e := range entries {
		if !e.Type().IsRegular() || !strings.HasPrefix(e.Name(), "nowthen-") || filepath.Ext(e.Name()) != ".zip" {
			continue
		}
		info, err := e.Info()
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			return nil, err
		}
		list = append(list, Copy{Name: e.Name(), Made: info.ModTime(), Bytes: info.Size()})
	}
	slices.SortFunc(list, func(a, b Copy) int { return strings.Compare(b.Name, a.Name) })
	return list, nil
}

// State returns how the daily backups stand.
func (d *Daily) State() (*State, error) {
	copies, err := d.copies()
	d.mu.Lock()
	defer d.mu.Unlock()
	return &State{Kept: kept, Copies: copies, Problem: d.problem}, err
}
