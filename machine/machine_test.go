package machine

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/filetest"
)

const span = 16 << 20

func quiet(drivetest.Progress) {}

func TestWhatIsWrittenIsThere(t *testing.T) {
	for _, named := range []bool{false, true} {
		vol, err := OpenFolder(onDrive(t))
		require.NoError(t, err)
		vol.named = named
		f, err := vol.create(4 << 20)
		require.NoError(t, err)
		for _, depth := range []int{1, 8} {
			q := f.Queue(depth)
			for i := range depth {
				data := f.Buffer(1 << 16)
				for k := range data {
					data[k] = byte(i + k)
				}
				q.Start(&drivetest.Request{Write: true, Offset: int64(i) << 16, Data: data})
			}
			for range depth {
				require.NoError(t, q.Wait().Err)
			}
			require.NoError(t, f.Flush())
			for i := range depth {
				q.Start(&drivetest.Request{Offset: int64(i) << 16, Data: f.Buffer(1 << 16)})
			}
			for range depth {
				r := q.Wait()
				require.NoError(t, r.Err)
				for k := range r.Data {
					require.Equal(t, byte(int(r.Offset>>16)+k), r.Data[k])
				}
				assert.Less(t, r.Started, r.Ended)
			}
			q.Close()
		}
		// Past the end is an error, not a short read taken for a whole one.
		q := f.Queue(1)
		q.Start(&drivetest.Request{Offset: 4 << 20, Data: f.Buffer(1 << 16)})
		assert.Error(t, q.Wait().Err)
		require.NoError(t, f.Close())
		left, err := os.ReadDir(vol.Dir())
		require.NoError(t, err)
		assert.Empty(t, left, "the test file is gone")
	}
}

func TestSweepRemovesOnlyWhatIsSigned(t *testing.T) {
	dir := onDrive(t)
	write := func(name string, content []byte) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, content, 0o600))
		return path
	}
	page := append(bytes.Clone(signature), make([]byte, 4096)...)
	left := write("nowthen-drive-test-0123456789abcdef.tmp", page)
	keep := []string{
		write("nowthen-drive-test-fedcba9876543210.tmp", []byte("a customer's file with an unlucky name")),
		write("nowthen-drive-test-00000000000000aa.tmp", nil),
		write("letter.txt", page),
		write("nowthen-drive-test-0123.tmp", page),
	}
	if runtime.GOOS != "windows" { // there it takes rights
		require.NoError(t, os.Symlink(keep[2], filepath.Join(dir, "nowthen-drive-test-1111111111111111.tmp")))
	}
	n, err := Sweep(dir)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	assert.NoFileExists(t, left)
	for _, path := range keep {
		assert.FileExists(t, path)
	}
	_, err = Sweep(filepath.Join(dir, "gone"))
	assert.Error(t, err)
}

func TestConditionsAndComputer(t *testing.T) {
	ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
	defer cancel()
	c := ConditionsAt(ctx, onDrive(t))
	require.NotNil(t, c.FillPct)
	assert.True(t, *c.FillPct >= 0 && *c.FillPct <= 100)
	require.NotNil(t, c.CPUPct)
	here := ThisComputer(ctx)
	assert.Positive(t, here.MemoryBytes)
	assert.NotEmpty(t, here.System)
}

func TestFolders(t *testing.T) {
	dir := onDrive(t)
	for _, name := range []string{"b", "a", ".hidden"} {
		require.NoError(t, os.Mkdir(filepath.Join(dir, name), 0o700))
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "file"), nil, 0o600))
	l, err := Folders(dir + "/./")
	require.NoError(t, err)
	assert.Equal(t, []string{"a", "b"}, l.Folders)
	assert.Equal(t, filepath.Dir(dir), l.Parent)
	_, err = Folders("relative")
	assert.ErrorContains(t, err, "not a whole path")
	_, err = Folders(filepath.Join(dir, "file"))
	assert.Error(t, err)
	root, err := Folders(filepath.VolumeName(dir) + string(filepath.Separator))
	require.NoError(t, err)
	assert.Empty(t, root.Parent)
}

// Every workload runs on a real file and leaves nothing behind.
func TestAllWorkloadsOnARealFile(t *testing.T) {
	vol, err := OpenFolder(onDrive(t))
	require.NoError(t, err)
	compressible := drivetest.LongWrite(span)
	compressible.Data, compressible.CompressTo = drivetest.Compressible, 0.5
	each := drivetest.ScatteredWrite(span)
	each.Flush = drivetest.FlushEach
	sweep := drivetest.SizeSweep(drivetest.Read, span)
	sweep.Sweep, sweep.BlockBytes = []int64{4 << 10, 64 << 10, 1 << 20}, 1<<20
	sweepWrite := sweep
	sweepWrite.Op, sweepWrite.Flush = drivetest.Write, drivetest.FlushAtEnd
	tests := map[string]drivetest.Workload{
		"long read": drivetest.LongRead(span), "long write": drivetest.LongWrite(span), "compressible": compressible,
		"scattered read": drivetest.ScatteredRead(span), "scattered write": drivetest.ScatteredWrite(span), "flushed each": each,
		"busy read": drivetest.Busy(drivetest.ScatteredRead(span)), "busy write": drivetest.Busy(drivetest.ScatteredWrite(span)),
		"desk mix": drivetest.DeskMix(span), "sweep": sweep, "sweep writing": sweepWrite, "sustained": drivetest.SustainedWrite(span),
		"keep up": drivetest.KeepUp(span, drivetest.Streams{Count: 3, MBs: 5}),
	}
	s, err := drivetest.Open(t.Context(), vol, span, 1)
	require.NoError(t, err)
	for name, w := range tests {
		w.MaxSeconds, w.MaxBytes = 0.4, 64<<20
		if w.Fresh {
			w.MaxBytes = span
		}
		r, err := s.Measure(t.Context(), w, quiet)
		require.NoError(t, err, name)
		assert.Positive(t, r.MBs, name)
		assert.Positive(t, r.IOs, name)
	}
	require.NoError(t, s.Close())
	left, err := os.ReadDir(vol.Dir())
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestFilesThatAreThereAreRead(t *testing.T) {
	dir := onDrive(t)
	content := bytes.Repeat([]byte("a customer's pictures "), 300_000) // 6.6 MB
	write := func(name string, n int) {
		path := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o700))
		require.NoError(t, os.WriteFile(path, content[:n], 0o400))
	}
	write("a/film", 5<<20+77)
	write("b/film", 3<<20)
	write("small", 5000)
	hole := filepath.Join(dir, "hole")
	require.NoError(t, os.WriteFile(hole, nil, 0o600))
	if runtime.GOOS != "windows" {
		require.NoError(t, os.Truncate(hole, 64<<20))
	}
	vol, err := OpenReadOnly(dir)
	require.NoError(t, err)
	s, err := drivetest.Open(t.Context(), vol, 0, 1)
	require.NoError(t, err)
	for _, w := range []drivetest.Workload{drivetest.LongRead(8 << 20), drivetest.ScatteredRead(8 << 20),
		drivetest.Busy(drivetest.ScatteredRead(8 << 20))} {
		w.Existing, w.MaxSeconds, w.MaxBytes = true, 0.3, 64<<20
		r, err := s.Measure(t.Context(), w, quiet)
		require.NoError(t, err)
		assert.Positive(t, r.MBs)
	}
	w := drivetest.LongRead(64 << 20)
	w.Existing = true
	_, err = s.Measure(t.Context(), w, quiet)
	assert.ErrorContains(t, err, "only 8 MiB", "a hole is no file")
	f, err := vol.Existing(t.Context(), 8<<20)
	require.NoError(t, err)
	q := f.Queue(1)
	// Over the border of two files, and what is read is what is there.
	q.Start(&drivetest.Request{Offset: 4 << 20, Data: f.Buffer(2 << 20)})
	r := q.Wait()
	require.NoError(t, r.Err)
	assert.Equal(t, content[4<<20:5<<20], r.Data[:1<<20])
	assert.Equal(t, content[:1<<20], r.Data[1<<20:])
	q.Start(&drivetest.Request{Write: true, Data: f.Buffer(4096)})
	assert.ErrorIs(t, q.Wait().Err, os.ErrPermission)
	require.NoError(t, f.Close())
}

// A sample depends on paths and sizes alone: a copy of the folder gives the same, and a
// file more changes little.
func TestTheSameFilesGiveTheSameSample(t *testing.T) {
	fill := func(more int) string {
		dir := onDrive(t)
		for i := range 40 + more {
			path := filepath.Join(dir, fmt.Sprint("d", i%5), fmt.Sprint("f", i))
			require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o700))
			require.NoError(t, os.WriteFile(path, bytes.Repeat([]byte{byte(i)}, (64+i*25)<<10), 0o600))
		}
		return dir
	}
	sample := func(dir string, most int64) map[string]int64 {
		vol, err := OpenReadOnly(dir)
		require.NoError(t, err)
		f, list, err := vol.Sample(t.Context(), 1, most)
		require.NoError(t, err)
		defer f.Close()
		by := map[string]int64{}
		sum := int64(0)
		for _, s := range list {
			by[s.Path] = s.Bytes
			sum += s.Bytes
			assert.Regexp(t, "^[0-9a-f]{12}$", s.Path, "no path is told")
		}
		assert.Equal(t, f.(*existing).size, sum)
		assert.LessOrEqual(t, sum, most)
		return by
	}
	a, b := fill(0), fill(0)
	assert.Equal(t, sample(a, 64<<30), sample(b, 64<<30))
	assert.Equal(t, sample(a, 18<<20), sample(b, 18<<20))
	more := sample(fill(1), 64<<30)
	same := 0
	for path, n := range sample(a, 64<<30) {
		if more[path] == n {
			same++
		}
	}
	assert.Equal(t, 40, same)

	vol, err := OpenReadOnly(a)
	require.NoError(t, err)
	s, err := drivetest.Open(t.Context(), vol, 0, 1)
	require.NoError(t, err)
	w := drivetest.ScatteredRead(64 << 30)
	w.Existing, w.Sample, w.MaxSeconds = true, true, 0.3
	r, err := s.Measure(t.Context(), w, quiet)
	require.NoError(t, err)
	assert.Len(t, r.Sample, 40)
	assert.Positive(t, r.IOPS)

	empty, err := OpenReadOnly(onDrive(t))
	require.NoError(t, err)
	_, _, err = empty.Sample(t.Context(), 1, 64<<30)
	assert.ErrorContains(t, err, "own files")
}

func TestFileTestsOnARealFolder(t *testing.T) {
	dir := onDrive(t)
	vol, err := OpenFolder(dir)
	require.NoError(t, err)
	set := filetest.Set{Files: 150, MedianBytes: 6 << 10, Sigma: 1.2, MaxBytes: 200 << 10, Seed: 2}
	for _, w := range []filetest.Work{{Op: filetest.MakeAndCopy, Set: set},
		{Op: filetest.Copy, Set: filetest.Set{Files: 1, MedianBytes: 12 << 20}}} {
		r, err := filetest.Measure(t.Context(), vol, w, "", quiet)
		require.NoError(t, err)
		assert.Positive(t, r.Phases[filetest.PhaseCopy])
		assert.Equal(t, w.Set.Bytes(), r.Bytes)
		left, err := os.ReadDir(dir)
		require.NoError(t, err)
		assert.Empty(t, left, "everything that was made is gone")
	}
	// A copy is what was copied.
	tree, err := vol.MakeTree(t.Context())
	require.NoError(t, err)
	n := byte(0)
	require.NoError(t, tree.Write("from/f000001.dat", 3<<20+5, func(b []byte) {
		for i := range b {
			b[i] = n
		}
		n++
	}))
	require.NoError(t, tree.Sync())
	require.NoError(t, tree.Forget("from/f000001.dat"))
	require.NoError(t, tree.Copy("from/f000001.dat", "to/f000001.dat"))
	list, err := tree.Entries()
	require.NoError(t, err)
	require.Len(t, list, 3, "the two and the marker")
	root := filepath.Join(dir, onlyFolder(t, dir))
	a, err := os.ReadFile(filepath.Join(root, "from", "f000001.dat"))
	require.NoError(t, err)
	b, err := os.ReadFile(filepath.Join(root, "to", "f000001.dat"))
	require.NoError(t, err)
	assert.Equal(t, a, b)
	require.NoError(t, tree.Close())

	// Another owner's folder is read and stays.
	other := filepath.Join(dir, "game")
	require.NoError(t, os.MkdirAll(filepath.Join(other, "levels"), 0o700))
	require.NoError(t, os.WriteFile(filepath.Join(other, "levels", "one"), bytes.Repeat([]byte("level"), 100_000),
		0o400))
	require.NoError(t, os.WriteFile(filepath.Join(other, "empty"), nil, 0o600))
	r, err := filetest.Measure(t.Context(), vol, filetest.Work{Op: filetest.Read}, other, quiet)
	require.NoError(t, err)
	assert.Equal(t, int64(2), r.Files)
	assert.Equal(t, int64(500_000), r.Bytes)
	assert.FileExists(t, filepath.Join(other, "levels", "one"))
	listed, err := filetest.Measure(t.Context(), vol, filetest.Work{Op: filetest.Read, Listing: true}, other, quiet)
	require.NoError(t, err)
	if listed.Note == "" { // with the rights of an administrator, on a system that lets it
		assert.Positive(t, listed.Phases[filetest.PhaseList])
		assert.InDelta(t, listed.Seconds, listed.Phases[filetest.PhaseList]+listed.Phases[filetest.PhaseRead], 1e-9)
	} else {
		assert.NotContains(t, listed.Phases, filetest.PhaseList, "what was warm is not in it")
	}
	_, err = filetest.Measure(t.Context(), vol, filetest.Work{Op: filetest.Read}, filepath.Join(dir, "gone"), quiet)
	assert.ErrorContains(t, err, "no folder")
}

func onlyFolder(t *testing.T, dir string) string {
	t.Helper()
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.Len(t, list, 1)
	return list[0].Name()
}

func TestSweepOfAFileTestLeavesWhatIsNotOfIt(t *testing.T) {
	dir := onDrive(t)
	vol, err := OpenFolder(dir)
	require.NoError(t, err)
	tree, err := vol.MakeTree(t.Context())
	require.NoError(t, err)
	require.NoError(t, tree.Write("from/d0000/f000000.dat", 100, func([]byte) {}))
	root := filepath.Join(dir, onlyFolder(t, dir))
	// As after a crash, with somebody's own file beside it.
	letter := filepath.Join(root, "from", "letter.txt")
	require.NoError(t, os.WriteFile(letter, []byte("dear"), 0o600))
	_, err = Sweep(dir)
	assert.Error(t, err, "a folder that is not empty is not removed")
	assert.FileExists(t, letter)
	assert.NoFileExists(t, filepath.Join(root, "from", "d0000", "f000000.dat"))
	require.NoError(t, os.Remove(letter))
	n, err := Sweep(dir)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	unsigned := filepath.Join(dir, "nowthen-file-test-0123456789abcdef.tmp")
	require.NoError(t, os.MkdirAll(unsigned, 0o700))
	n, err = Sweep(dir)
	require.NoError(t, err)
	assert.Zero(t, n)
	assert.DirExists(t, unsigned)
}

// A call of the system that is cut short or interrupted is taken up again; one
// that fails is an error with what was moved.
func TestWhole(t *testing.T) {
	vanished := syscall.Errno(19) // no such device
	type step struct {
		n   int
		err error
	}
	tests := []struct {
		name  string
		steps []step
		n     int
		err   error
	}{
		{"at once", []step{{100, nil}}, 100, nil},
		{"short, then the rest", []step{{30, nil}, {69, nil}, {1, nil}}, 100, nil},
		{"nothing more", []step{{40, nil}, {0, nil}}, 40, io.ErrUnexpectedEOF},
		{"the end said", []step{{40, io.EOF}}, 40, io.ErrUnexpectedEOF},
		{"the end said with the last bytes", []step{{60, nil}, {40, io.EOF}}, 100, nil},
		{"the drive is gone", []step{{20, nil}, {-1, vanished}}, 20, vanished},
		{"at the first call", []step{{-1, vanished}}, 0, vanished},
	}
	if runtime.GOOS != "windows" {
		tests = append(tests, []struct {
			name  string
			steps []step
			n     int
			err   error
		}{
			{"interrupted", []step{{-1, syscall.EINTR}, {-1, syscall.EINTR}, {100, nil}}, 100, nil},
			{"interrupted in the middle", []step{{10, nil}, {-1, syscall.EINTR}, {90, nil}}, 100, nil},
			{"no room", []step{{60, nil}, {-1, syscall.ENOSPC}}, 60, syscall.ENOSPC},
		}...)
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			at, i := int64(7000), 0
			n, err := whole(make([]byte, 100), 7000, func(p []byte, off int64) (int, error) {
				require.Equal(t, at, off)
				require.Len(t, p, 100-int(off-7000))
				s := tt.steps[i]
				i++
				at += int64(max(s.n, 0))
				return s.n, s.err
			})
			assert.Equal(t, tt.n, n)
			assert.ErrorIs(t, err, tt.err)
			assert.Equal(t, len(tt.steps), i)
		})
	}
}

// FuzzWhole: whatever short answers and errors the system gives, exactly the
// bytes it moved are counted, in order and without gaps.
func FuzzWhole(f *testing.F) {
	f.Add([]byte{10, 0, 255, 3})
	f.Add([]byte{})
	f.Add([]byte{197, 246}) // all of it, and the end of the file with the last bytes
	f.Fuzz(func(t *testing.T, answers []byte) {
		moved, i := 0, 0
		n, err := whole(make([]byte, 200), 0, func(p []byte, at int64) (int, error) {
			if int(at) != moved || len(p) != 200-moved {
				t.Fatalf("asked for %d bytes at %d after %d", len(p), at, moved)
			}
			if i >= len(answers) {
				moved += len(p)
				return len(p), nil
			}
			a := int(answers[i])
			i++
			switch {
			case a >= 250:
				return -1, errors.New("broken")
			case a >= 240:
				moved += min(3, len(p))
				return min(3, len(p)), io.EOF
			}
			moved += min(a, len(p))
			return min(a, len(p)), nil
		})
		if n != moved || (err == nil) != (n == 200) {
			t.Fatalf("%d of %d moved bytes, %v", n, moved, err)
		}
	})
}

// The clock that counts sleep is never behind the other, and while the computer is
// awake they go together.
func TestAwake(t *testing.T) {
	before := slept()
	assert.GreaterOrEqual(t, before, time.Duration(0))
	assert.GreaterOrEqual(t, slept(), before-time.Second, "the two clocks are read one after the other")
}

// What a removed test file held is trimmed, or it is said why not.
func TestTrimming(t *testing.T) {
	vol, err := OpenFolder(onDrive(t))
	require.NoError(t, err)
	f, err := vol.create(1 << 20)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	if err := vol.Trim(); err != nil {
		assert.True(t, errors.Is(err, drivetest.ErrNoTrim) || errors.Is(err, drivetest.ErrTrimForbidden), "%v", err)
	}
	if runtime.GOOS != "windows" { // where it was done as the file was removed, it says so again
		assert.ErrorIs(t, vol.Trim(), drivetest.ErrNoTrim, "nothing is left to trim")
	}
}
