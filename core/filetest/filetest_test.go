package filetest

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
)

// shelf is a place whose times are known: 1 ms a file and 10 ns a byte to
// write, as much to read, 50 ms to make things durable.
type shelf struct {
	now       time.Duration
	files     map[string]int64
	forgotten map[string]bool
	closed    bool
	fail      string // the call that fails
	facts     drivetest.Facts
}

func newShelf() *shelf {
	return &shelf{files: map[string]int64{}, forgotten: map[string]bool{},
		facts: drivetest.Facts{TotalBytes: 1 << 40, FreeBytes: 1 << 39}}
}

var errShelf = errors.New("the shelf broke")

func (s *shelf) broken(call string) error {
	if s.fail == call {
		return fmt.Errorf("%s: %w", call, errShelf)
	}
	return nil
}

func (s *shelf) Facts() drivetest.Facts                         { return s.facts }
func (*shelf) Can() drivetest.Capabilities                      { return drivetest.Capabilities{} }
func (s *shelf) Now() time.Duration                             { return s.now }
func (s *shelf) MakeTree(context.Context) (Tree, error)         { return s, s.broken("make") }
func (s *shelf) OpenTree(context.Context, string) (Tree, error) { return s, s.broken("open") }
func (s *shelf) Sync() error {
	s.now += 50 * time.Millisecond
	return s.broken("sync")
}
func (s *shelf) Close() error             { s.closed = true; return nil }
func (s *shelf) Forget(name string) error { s.forgotten[name] = true; return s.broken("forget") }
func (s *shelf) pass(n int64)             { s.now += time.Millisecond + time.Duration(10*n) }

func (s *shelf) Entries() ([]Entry, error) {
	var list []Entry
	for name, n := range s.files {
		list = append(list, Entry{name, n})
	}
	slices.SortFunc(list, func(a, b Entry) int { return int(a.Bytes - b.Bytes) })
	return list, nil
}

func (s *shelf) Write(name string, n int64, fill func([]byte)) error {
	b := make([]byte, 16)
	fill(b)
	s.files[name] = n
	s.pass(n)
	return s.broken("write")
}

func (s *shelf) Copy(from, to string) error {
	if !s.forgotten[from] {
		return errors.New("a copy out of memory")
	}
	s.files[to] = s.files[from]
	s.pass(s.files[from])
	s.pass(s.files[from])
	return s.broken("copy")
}

func (s *shelf) Read(name string) (int64, error) {
	if !s.forgotten[name] {
		return 0, errors.New("a reading out of memory")
	}
	s.pass(s.files[name])
	return s.files[name], s.broken("read")
}

func quiet(drivetest.Progress) {}

var small = Set{Files: 500, MedianBytes: 8 << 10, Sigma: 1.5, MaxBytes: 1 << 20, Seed: 4}

func TestTimesAreThoseOfThePlace(t *testing.T) {
	bytes := float64(small.Bytes())
	tests := []struct {
		name   string
		w      Work
		phases map[string]float64
	}{
		{"copy a large file", Work{Op: Copy, Set: Set{Files: 1, MedianBytes: 64 << 20}},
			map[string]float64{"copy": 0.002 + 2*10e-9*(64<<20) + 0.05}},
		{"make and copy many", Work{Op: MakeAndCopy, Set: small},
			map[string]float64{"make": 0.5 + 10e-9*bytes + 0.05, "copy": 1 + 20e-9*bytes + 0.05}},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			s := newShelf()
			told := 0.0
			r, err := Measure(t.Context(), s, tt.w, "", func(p drivetest.Progress) { told = p.Done })
			require.NoError(t, err)
			sum := 0.0
			for id, want := range tt.phases {
				assert.InDelta(t, want, r.Phases[id], 1e-6, id)
				sum += want
			}
			assert.InDelta(t, sum, r.Seconds, 1e-6)
			assert.Equal(t, int64(tt.w.Set.Files), r.Files)
			assert.Equal(t, tt.w.Set.Bytes(), r.Bytes)
			assert.Equal(t, Digest(tt.w.Set.Entries()), r.Digest)
			assert.True(t, s.closed, "what was made is removed")
			if tt.w.Set.Files > 1 {
				assert.InDelta(t, 1, told, 0.2)
			}
		})
	}
}

func TestAFolderIsReadColdAndInPart(t *testing.T) {
	s := newShelf()
	s.files["a"], s.files["b"], s.files["huge"] = 100, 1<<20, readAtMost
	r, err := Measure(t.Context(), s, Work{Op: Read}, "somewhere", quiet)
	require.NoError(t, err)
	assert.Equal(t, int64(2), r.Files, "what goes beyond the bound is left out")
	assert.Equal(t, int64(100+1<<20), r.Bytes)
	assert.InDelta(t, 0.002+10e-9*float64(r.Bytes), r.Seconds, 1e-6)
	empty := newShelf()
	_, err = Measure(t.Context(), empty, Work{Op: Read}, "somewhere", quiet)
	assert.ErrorContains(t, err, "no file")
}

func TestEveryFaultEndsItAndRemovesWhatWasMade(t *testing.T) {
	for _, call := range []string{"make", "write", "sync", "forget", "copy"} {
		s := newShelf()
		s.fail = call
		_, err := Measure(t.Context(), s, Work{Op: Copy, Set: Set{Files: 2, MedianBytes: 1 << 20}}, "", quiet)
		assert.ErrorIs(t, err, errShelf, call)
		assert.Equal(t, call != "make", s.closed, call)
	}
	for _, call := range []string{"open", "forget", "read"} {
		s := newShelf()
		s.files["a"], s.fail = 5, call
		_, err := Measure(t.Context(), s, Work{Op: Read}, "x", quiet)
		assert.ErrorIs(t, err, errShelf, call)
	}
	s := newShelf()
	s.facts.FreeBytes = 1 << 30
	_, err := Measure(t.Context(), s, Work{Op: Copy, Set: Set{Files: 1, MedianBytes: 1 << 30}}, "", quiet)
	assert.ErrorIs(t, err, drivetest.ErrNoRoom)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = Measure(ctx, newShelf(), Work{Op: Copy, Set: small}, "", quiet)
	assert.ErrorIs(t, err, context.Canceled)
	_, err = Measure(t.Context(), newShelf(), Work{Op: Copy, Set: Set{Files: 20, MedianBytes: 3 << 30}}, "", quiet)
	assert.ErrorIs(t, err, ErrTooLong)
}

func TestASetIsTheSameEachTime(t *testing.T) {
	a, b := small.Entries(), small.Entries()
	assert.Equal(t, a, b)
	other := small
	other.Seed++
	assert.NotEqual(t, Digest(a), Digest(other.Entries()))
	slices.Reverse(b)
	assert.Equal(t, Digest(a), Digest(b), "order does not matter")
	sizes := make([]int64, len(a))
	for i, e := range a {
		sizes[i] = e.Bytes
	}
	slices.Sort(sizes)
	assert.InEpsilon(t, 8<<10, sizes[250], 0.2, "the median")
	assert.InEpsilon(t, 4.48, float64(sizes[420])/float64(sizes[250]), 0.35, "84 % is one sigma up")
}

func TestCheck(t *testing.T) {
	good := Work{Op: MakeAndCopy, Set: small}
	require.NoError(t, good.Check())
	require.NoError(t, Work{Op: Read}.Check())
	tests := []struct {
		name  string
		spoil func(*Work)
		wrong string
	}{
		{"op", func(w *Work) { w.Op = "fold" }, "op"},
		{"none", func(w *Work) { w.Set.Files = 0 }, "files"},
		{"many", func(w *Work) { w.Set.Files = 1 << 30 }, "files"},
		{"nothing in them", func(w *Work) { w.Set.MedianBytes = 0 }, "median_bytes"},
		{"sigma", func(w *Work) { w.Set.Sigma = 9 }, "sigma"},
		{"no bound", func(w *Work) { w.Set.MaxBytes = 0 }, "max_bytes"},
		{"too much", func(w *Work) { w.Set = Set{Files: 100, MedianBytes: 1 << 30} }, "the set has"},
	}
	for _, tt := range tests {
		w := good
		tt.spoil(&w)
		assert.ErrorContains(t, w.Check(), tt.wrong, tt.name)
	}
}

// slow is a shelf on a drive that takes very long for one call, or hangs in it.
type slow struct {
	*shelf
	call  string
	takes time.Duration
	hangs chan struct{}
}

func (s *slow) MakeTree(context.Context) (Tree, error) { return s, nil }

func (s *slow) wait(call string) {
	if call != s.call {
		return
	}
	s.now += s.takes
	if s.hangs != nil {
		<-s.hangs
	}
}

func (s *slow) Sync() error {
	if len(s.files) > 0 { // not the one before anything is made
		s.wait("sync")
	}
	return s.shelf.Sync()
}

func (s *slow) Copy(from, to string) error {
	s.wait("copy")
	return s.shelf.Copy(from, to)
}

func TestATestIsBoundedInTime(t *testing.T) {
	for _, tt := range []struct {
		name, call string
		op         string
		takes      time.Duration
	}{
		{"a sync of an hour", "sync", MakeAndCopy, time.Hour},
		{"a sync of an hour while things are made ready", "sync", Copy, time.Hour},
		{"a copy of an hour", "copy", Copy, time.Hour},
		{"copies of a minute each", "copy", Copy, time.Minute},
	} {
		t.Run(tt.name, func(t *testing.T) {
			s := &slow{shelf: newShelf(), call: tt.call, takes: tt.takes}
			r, err := Measure(t.Context(), s, Work{Op: tt.op, Set: small}, "", quiet)
			require.ErrorIs(t, err, ErrTooLong)
			assert.Nil(t, r)
			assert.True(t, s.closed, "what was made is removed")
		})
	}
}

func TestADriveThatHangsIsLeftAlone(t *testing.T) {
	for _, cancelled := range []bool{false, true} {
		synctest.Test(t, func(t *testing.T) {
			s := &slow{shelf: newShelf(), call: "sync", hangs: make(chan struct{})}
			ctx, cancel := context.WithCancel(t.Context())
			begun := time.Now()
			if cancelled {
				time.AfterFunc(time.Minute, cancel)
			}
			defer cancel()
			told := 0
			_, err := Measure(ctx, s, Work{Op: MakeAndCopy, Set: small}, "", func(drivetest.Progress) { told++ })
			if cancelled {
				require.ErrorIs(t, err, context.Canceled)
				assert.Equal(t, time.Minute+grace, time.Since(begun))
			} else {
				require.ErrorIs(t, err, ErrTooLong)
				assert.Equal(t, 2*maxTime+2*grace, time.Since(begun))
			}
			assert.False(t, s.closed)
			before := told
			close(s.hangs)
			synctest.Wait()
			assert.True(t, s.closed, "once it answers, what was made is removed")
			assert.Equal(t, before, told, "nobody is told of it any more")
		})
	}
}

// sleepy is a shelf in a computer that sleeps while files are copied.
type sleepy struct {
	slow
	slept time.Duration
}

func (s *sleepy) MakeTree(context.Context) (Tree, error) { return s, nil }
func (s *sleepy) Can() drivetest.Capabilities {
	return drivetest.Capabilities{Slept: func() time.Duration { return s.slept }}
}
func (s *sleepy) Copy(from, to string) error {
	s.slept = time.Hour
	return s.shelf.Copy(from, to)
}

func TestAComputerThatSleeps(t *testing.T) {
	_, err := Measure(t.Context(), &sleepy{slow: slow{shelf: newShelf()}}, Work{Op: Copy, Set: small}, "", quiet)
	require.ErrorIs(t, err, drivetest.ErrClock)
}
