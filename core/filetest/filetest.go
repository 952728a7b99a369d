package filetest

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"sync"
	"time"

	"nowthen/core/drivetest"
)

// Place is a volume on which files can be made and read: a folder on a real
// file system, or a simulated drive.
type Place interface {
	Facts() drivetest.Facts
	// Now is the place's clock.
	Now() time.Duration
	// Can says what else it can do.
	Can() drivetest.Capabilities
	// MakeTree makes an empty folder of ours.
	MakeTree(ctx context.Context) (Tree, error)
	// OpenTree opens a folder that is there, read-only.
	OpenTree(ctx context.Context, dir string) (Tree, error)
}

// Tree is a folder with files. Close removes it if it is ours.
type Tree interface {
	// Entries lists the files in a fixed order.
	Entries() ([]Entry, error)
	// Write makes a file of so many bytes; fill gives its content piece by piece.
	Write(name string, bytes int64, fill func([]byte)) error
	// Copy reads one file and writes another, as a program does.
	Copy(from, to string) error
	// Read reads a whole file and says how long it was.
	Read(name string) (int64, error)
	// Forget makes sure that the next reading of a file comes from the drive, or
	// says why that cannot be had.
	Forget(name string) error
	// Sync makes everything written durable.
	Sync() error
	Close() error
}

// Lister is a tree whose listing can be forgotten as well as its files.
type Lister interface {
	// ForgetListing makes sure that the next listing comes from the drive, or says why that
	// cannot be had.
	ForgetListing() error
}

// Phases of a test that makes and copies, and of one that reads.
const (
	PhaseList = "list"
	PhaseRead = "read"

	PhaseMake = "make"
	PhaseCopy = "copy"
)

// Reading is what one run of a file test gave.
type Reading struct {
	Work Work
	// Seconds is what counts; Phases are its parts where there are several.
	Seconds float64
	Phases  map[string]float64
	Files   int64
	Bytes   int64
	Digest  string // of names and sizes
	// Note says what couldn't be done, "" if nothing.
	Note  string
	Facts drivetest.Facts
}

// maxTime is how long making things ready may take, and as long the timed part,
// with what it takes to make things durable; an old disk must not keep a
// technician for an hour.
const maxTime = 10 * time.Minute

// Longest is how long a file test takes at most, before it is ended.
const Longest = 2 * maxTime

// grace is how long a system call is waited for once the time is up or the test is cancelled. A hanging drive
// never ends it.
const grace = 5 * time.Second

// ErrTooLong means that the bound of time was reached.
var ErrTooLong = errors.New("it took longer than ten minutes and was ended")

// Measure runs a file test once. dir is the folder that is read, of that kind.
// tell is called with what is going on, by one goroutine at a time and not after
// Measure has returned; Laying is true while a set is prepared. A test that takes
// too long ends with an error that wraps [ErrTooLong], one during which the computer
// slept with [drivetest.ErrClock]. Where the drive hangs, its files are removed
// once it answers.
func Measure(ctx context.Context, p Place, w Work, dir string, tell func(drivetest.Progress)) (*Reading, error) {
	if err := w.Check(); err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeoutCause(ctx, Longest+grace, ErrTooLong)
	defer cancel()
	var telling sync.Mutex
	over := false
	m := &measuring{ctx: ctx, place: p, r: &Reading{Work: w, Facts: p.Facts()}, tell: func(now drivetest.Progress) {
		telling.Lock()
		defer telling.Unlock()
		if !over {
			tell(now)
		}
	}}
	defer func() {
		telling.Lock()
		defer telling.Unlock()
		over = true
	}()
	done := make(chan error, 1)
	go func() { done <- m.measure(dir) }()
	select {
	case err := <-done:
		return m.reading(err)
	case <-ctx.Done():
	}
	select {
	case err := <-done:
		return m.reading(err)
	case <-time.After(grace):
		return nil, fmt.Errorf("%w; the drive has not answered since, and what was made for the test is removed once "+
			"it does", context.Cause(ctx))
	}
}

func (m *measuring) measure(dir string) error {
	awake := drivetest.WatchSleep(m.place.Can().Slept)
	err := func() error {
		if m.r.Work.Op == Read {
			return m.read(dir)
		}
		if err := drivetest.CheckRoom(m.r.Facts, m.r.Work.Writes()); err != nil {
			return err
		}
		return m.makeAndCopy(m.r.Work.Set.Entries())
	}()
	return errors.Join(err, awake.Check())
}

// reading is what was measured, or why nothing was.
func (m *measuring) reading(err error) (*Reading, error) {
	if err != nil {
		return nil, err
	}
	for _, s := range m.r.Phases {
		m.r.Seconds += s
	}
	return m.r, nil
}

type measuring struct {
	ctx   context.Context
	place Place
	tell  func(drivetest.Progress)
	r     *Reading

	from, told time.Duration
	moved      int64
	toldBytes  int64
	of         int64
	laying     bool
	spent      [2]time.Duration // on the place's clock: for what is timed, and for making ready
}

// within adds what was spent and reports whether there is time left for more.
func (m *measuring) within(laying bool, d time.Duration) error {
	part := 0
	if laying {
		part = 1
	}
	if m.spent[part] += d; m.spent[part] > maxTime {
		return fmt.Errorf("%w, after %d of %d MB", ErrTooLong, m.moved/1e6, m.of/1e6)
	}
	return context.Cause(m.ctx)
}

// stretch does something with every file, and tells about it.
func (m *measuring) stretch(laying bool, list []Entry, do func(Entry) error) (seconds float64, err error) {
	m.laying, m.of, m.moved, m.toldBytes = laying, total(list), 0, 0
	m.from = m.place.Now()
	m.told = m.from
	last := m.from
	for _, e := range list {
		if err := context.Cause(m.ctx); err != nil {
			return 0, err
		}
		if err := do(e); err != nil {
			return 0, err
		}
		m.add(e.Bytes)
		now := m.place.Now()
		if err := m.within(laying, now-last); err != nil {
			return 0, err
		}
		last = now
	}
	return (last - m.from).Seconds(), nil
}

func (m *measuring) add(n int64) {
	m.moved += n
	now := m.place.Now()
	if dt := now - m.told; dt >= 100*time.Millisecond {
		m.tell(drivetest.Progress{Laying: m.laying, Done: float64(m.moved) / float64(max(1, m.of)),
			Elapsed: now - m.from, Bytes: m.moved,
			MBs: float64(m.moved-m.toldBytes) / dt.Seconds() / 1e6, TempC: math.NaN(), HalfWidth: math.NaN()})
		m.told, m.toldBytes = now, m.moved
	}
}

func (m *measuring) makeAndCopy(list []Entry) (err error) {
	tree, err := m.place.MakeTree(m.ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, tree.Close()) }()
	w := m.r.Work
	rng := rand.New(rand.NewPCG(w.Set.Seed, 0x64617461))
	fill := func(b []byte) {
		for at := 0; at+8 <= len(b); at += 8 {
			binary.LittleEndian.PutUint64(b[at:], rng.Uint64())
		}
	}
	if err := tree.Sync(); err != nil { // what others have to write is not ours to wait for later
		return err
	}
	made, err := m.stretch(w.Op == Copy, list, func(e Entry) error { return tree.Write("from/"+e.Name, e.Bytes, fill) })
	if err != nil {
		return fmt.Errorf("making the files: %w", err)
	}
	synced, err := m.timed(w.Op == Copy, tree.Sync)
	if err != nil {
		return fmt.Errorf("making the files: %w", err)
	}
	for _, e := range list {
		if err := m.ctx.Err(); err != nil {
			return err
		}
		if err := tree.Forget("from/" + e.Name); err != nil {
			return err
		}
	}
	copied, err := m.stretch(false, list, func(e Entry) error { return tree.Copy("from/"+e.Name, "to/"+e.Name) })
	if err != nil {
		return fmt.Errorf("copying: %w", err)
	}
	flushed, err := m.timed(false, tree.Sync)
	if err != nil {
		return fmt.Errorf("copying: %w", err)
	}
	m.r.Phases = map[string]float64{PhaseCopy: copied + flushed}
	if w.Op == MakeAndCopy {
		m.r.Phases[PhaseMake] = made + synced
	}
	m.r.Files, m.r.Bytes, m.r.Digest = int64(len(list)), total(list), Digest(list)
	return nil
}

// timed does one thing without progress calls.
func (m *measuring) timed(laying bool, do func() error) (seconds float64, err error) {
	from := m.place.Now()
	if err := do(); err != nil {
		return 0, err
	}
	took := m.place.Now() - from
	return took.Seconds(), m.within(laying, took)
}

// readAtMost bounds what of a folder is read: the files that come first in its
// order, so that it is the same ones each time.
const readAtMost = 4 << 30

func (m *measuring) read(dir string) (err error) {
	tree, err := m.place.OpenTree(m.ctx, dir)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, tree.Close()) }()
	all, err := tree.Entries()
	if err != nil {
		return err
	}
	list, bytes := all[:0:0], int64(0)
	for _, e := range all {
		if len(list) == maxFiles || bytes+e.Bytes > readAtMost {
			break
		}
		list, bytes = append(list, e), bytes+e.Bytes
	}
	if len(list) == 0 {
		return errors.New("the folder has no file that could be read")
	}
	if _, err := m.stretch(true, list, func(e Entry) error { return tree.Forget(e.Name) }); err != nil {
		return err
	}
	phases := map[string]float64{}
	if m.r.Work.Listing {
		if err := m.list(tree, all, phases); err != nil {
			return err
		}
	}
	took, err := m.stretch(false, list, func(e Entry) error {
		n, err := tree.Read(e.Name)
		if err == nil && n != e.Bytes {
			err = fmt.Errorf("%s has %d bytes now and had %d; the folder must stay as it is", e.Name, n, e.Bytes)
		}
		return err
	})
	if err != nil {
		return err
	}
	phases[PhaseRead] = took
	m.r.Phases = phases
	m.r.Files, m.r.Bytes, m.r.Digest = int64(len(list)), bytes, Digest(list)
	return nil
}

// list times a cold listing, or notes why there isn't one.
func (m *measuring) list(tree Tree, before []Entry, phases map[string]float64) error {
	if err := forgetListing(tree); err != nil {
		m.r.Note = "The listing was not cold and is not in it: " + err.Error() + "."
		return nil
	}
	from := m.place.Now()
	again, err := tree.Entries()
	if err != nil {
		return err
	}
	if Digest(again) != Digest(before) {
		return errors.New("the folder has other files now; it must stay as it is")
	}
	phases[PhaseList] = (m.place.Now() - from).Seconds()
	return nil
}

func forgetListing(t Tree) error {
	if l, ok := t.(Lister); ok {
		return l.ForgetListing()
	}
	return errors.New("the system does not let a listing be forgotten")
}
