package backup

import (
	"cmp"
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

// Folder is the name of the folder of the daily backups, in the data folder.
const Folder = "backups"

// kept is how many daily backups are kept.
const kept = 7

// reserve stays free on the drive, in bytes: a backup must not fill it.
const reserve = 2e9

// Copy is an existing daily backup.
type Copy struct {
	Name  string    `json:"name"`
	Made  time.Time `json:"made"`
	Bytes int64     `json:"bytes"`
	// Damaged are the numbers of the jobs in it that could not be read when it was made.
	Damaged []string `json:"damaged"`
}

// State is the state of the daily backups.
type State struct {
	Kept   int    `json:"kept"`   // how many are kept
	Copies []Copy `json:"copies"` // the newest first
	// Good is the name of the newest one without damage, or "".
	Good string `json:"good"`
	// Problem says why the last one was not made or what is damaged in it, or "".
	Problem string `json:"problem"`
	// Waiting: a copy is due, and is made once this computer has finished measuring.
	Waiting bool `json:"waiting"`
}

// Daily makes a backup a day of the database (photos and settings are in it, clips
// are not) and keeps the last seven.
type Daily struct {
	DB   Source
	Data string // the data folder
	Log  *slog.Logger
	Free func(dir string) (int64, error) // bytes that are free there
	// Busy reports whether this computer is measuring, which copying would disturb. nil means never.
	Busy func() bool

	mu      sync.Mutex
	problem string
	waiting bool
	read    map[string]Copy // copies whose manifest was read, by name
}

// name is that of a day's backup.
func name(day time.Time) string { return "nowthen-" + day.Format(time.DateOnly) + ".zip" }

// Intervals at which Run checks whether today's backup exists, and whether measuring has finished.
const (
	everyHour   = time.Hour
	everyMinute = time.Minute
)

// Run makes a backup whenever a day has none yet, until the context ends. It waits while this computer
// measures.
func (d *Daily) Run(ctx context.Context) {
	for {
		next := everyHour
		if d.mustWait() {
			next = everyMinute
		} else if err := d.Make(ctx, time.Now()); err != nil && ctx.Err() == nil {
			d.Log.Error("the daily backup has a problem", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(next):
		}
	}
}

// mustWait reports whether a backup would disturb a measurement, and notes it.
func (d *Daily) mustWait() bool {
	waits := d.Busy != nil && d.Busy()
	d.mu.Lock()
	defer d.mu.Unlock()
	if waits && !d.waiting {
		d.Log.Info("the daily backup waits until measuring on this computer has ended")
	}
	d.waiting = waits
	return waits
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
	if m, err := Read(out); err == nil {
		return m.whole()
	}
	if err := d.room(dir); err != nil {
		return err
	}
	m, err := Write(ctx, d.DB, d.Data, out, false)
	if err != nil {
		return err
	}
	copies, err := d.copies()
	if err != nil {
		return err
	}
	good := newestGood(copies)
	for _, c := range copies[min(kept, len(copies)):] {
		if c.Name == good {
			continue // nothing newer is as good
		}
		if err := os.Remove(filepath.Join(dir, c.Name)); err != nil {
			return err
		}
	}
	return m.whole()
}

// room refuses to fill the drive, which holds both the copy and its zip for a moment.
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
		list = append(list, d.look(Copy{Name: e.Name(), Made: info.ModTime(), Bytes: info.Size()}))
	}
	slices.SortFunc(list, func(a, b Copy) int { return strings.Compare(b.Name, a.Name) })
	return list, nil
}

// look notes the damage listed in a copy's manifest. A copy that can't be read counts as damaged as a whole.
func (d *Daily) look(c Copy) Copy {
	d.mu.Lock()
	defer d.mu.Unlock()
	if known, ok := d.read[c.Name]; ok && known.Made.Equal(c.Made) && known.Bytes == c.Bytes {
		return known
	}
	c.Damaged = []string{}
	m, err := Read(filepath.Join(d.Data, Folder, c.Name))
	if err != nil {
		c.Damaged = append(c.Damaged, "all")
	} else {
		for _, j := range m.Damaged {
			c.Damaged = append(c.Damaged, cmp.Or(j.Number, j.ID))
		}
	}
	if d.read == nil {
		d.read = map[string]Copy{}
	}
	d.read[c.Name] = c
	return c
}

// newestGood is the name of the newest copy without damage, or "".
func newestGood(copies []Copy) string {
	for _, c := range copies {
		if len(c.Damaged) == 0 {
			return c.Name
		}
	}
	return ""
}

// State returns the state of the daily backups.
func (d *Daily) State() (*State, error) {
	copies, err := d.copies()
	d.mu.Lock()
	defer d.mu.Unlock()
	return &State{Kept: kept, Copies: copies, Good: newestGood(copies), Problem: d.problem, Waiting: d.waiting}, err
}

// HowToRestore reports how to get back what is damaged, from the newest good copy where there is one.
func (d *Daily) HowToRestore() string {
	from := "your newest good backup"
	if d != nil {
		if state, err := d.State(); err == nil && state.Good != "" {
			from = filepath.Join(Folder, state.Good) + " (the newest good backup)"
		}
	}
	return fmt.Sprintf("Run nowthen restore with %s and a new data folder, then serve that folder.", from)
}
