package machine

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"time"
	"unsafe"

	"nowthen/core/drivetest"
)

// Folder is a volume: a folder on a real file system, tested with direct I/O.
type Folder struct {
	dir    string
	facts  drivetest.Facts
	origin time.Time
	named  bool // make a file with a name although the system could do without
	sensor *sensor

	mu    sync.Mutex
	freed []extent // where removed test files lay that nobody trimmed yet
}

// handle is an open file for direct I/O; each operating system has its own.
type handle interface {
	// readAt and writeAt are single calls of the system: they may be short, and
	// may be interrupted.
	readAt(p []byte, at int64) (int, error)
	writeAt(p []byte, at int64) (int, error)
	// flush makes everything written durable.
	flush() error
	// reserve gives the file its room, so that writing does not wait for it to grow.
	reserve(size int64) error
	// align is what offsets, lengths and buffers must be multiples of, 0 where the
	// system refuses direct I/O on this file.
	align() int64
	close() error
}

// OpenFolder checks a folder and returns it as a volume. The error says what
// is wrong with the folder: not there, not a folder, read-only, in memory, on
// the network, or without direct I/O.
func OpenFolder(dir string) (*Folder, error) {
	f, err := openReadable(dir)
	if err != nil {
		return nil, err
	}
	// Making a small file reports whether the folder can be written and read directly.
	probe, err := f.create(layAlign)
	if err != nil {
		return nil, err
	}
	f.facts.AlignBytes = probe.align
	return f, probe.Close()
}

// OpenReadOnly returns a folder as a volume of which only existing files are
// read; nothing is written, not even to try.
func OpenReadOnly(dir string) (*Folder, error) {
	f, err := openReadable(dir)
	if err == nil {
		f.facts.AlignBytes = 4096
	}
	return f, err
}

func openReadable(dir string) (*Folder, error) {
	if err := CheckPath(dir); err != nil {
		return nil, err
	}
	dir = filepath.Clean(dir)
	info, err := os.Stat(dir)
	switch {
	case errors.Is(err, os.ErrNotExist):
		return nil, fmt.Errorf("there is no folder %s", dir)
	case err != nil:
		return nil, fmt.Errorf("the folder %s cannot be looked at: %w", dir, bare(err))
	case !info.IsDir():
		return nil, fmt.Errorf("%s is not a folder", dir)
	}
	f := &Folder{dir: dir, origin: time.Now(), sensor: newSensor(dir)}
	if f.facts, err = placeOf(dir); err != nil {
		return nil, err
	}
	return f, nil
}

// placeOf reports what a folder is on, with an error where that is no drive that
// can be measured from here.
func placeOf(dir string) (drivetest.Facts, error) {
	where, err := fileSystemOf(dir)
	if err != nil {
		return drivetest.Facts{}, fmt.Errorf("the file system of %s cannot be asked: %w", dir, err)
	}
	switch where.kind {
	case inMemory:
		return drivetest.Facts{},
			fmt.Errorf("%w: %s lies on %s, which is not on a drive", drivetest.ErrNoDirectIO, dir, where.FileSystem)
	case compressed:
		return drivetest.Facts{},
			fmt.Errorf("%w: %s is a compressed folder; what is measured there is the processor, not the drive. Take "+
				"a folder that is not compressed", drivetest.ErrNoDirectIO, dir)
	case cachesItself:
		return drivetest.Facts{},
			fmt.Errorf("%w: %s lies on %s, which has a cache of its own that direct I/O does not pass by; mount the "+
				"drive with a driver of the system itself, or measure it in its own computer", drivetest.ErrNoDirectIO, dir, where.FileSystem)
	case onNetwork:
		return drivetest.Facts{},
			fmt.Errorf("%w: %s lies on the network (%s); a test here would measure the network and a server's memory",
				drivetest.ErrNoDirectIO, dir, where.FileSystem)
	case local:
	}
	return where.Facts, nil
}

// placement is what the system says of the file system of a folder.
type placement struct {
	drivetest.Facts
	kind kindOfPlace
}

type kindOfPlace int

const (
	local kindOfPlace = iota
	inMemory
	onNetwork
	compressed
	cachesItself // takes direct I/O and answers it out of memory
)

// Dir is the folder's path.
func (f *Folder) Dir() string { return f.dir }

// Facts says what the volume is; the free space is that of opening.
func (f *Folder) Facts() drivetest.Facts { return f.facts }

// Now is the time since the folder was opened, on the monotonic clock.
func (f *Folder) Now() time.Duration { return time.Since(f.origin) }

// Temperature is the drive's, °C, as far as the system reports it: NaN where not.
func (f *Folder) Temperature() (celsius, limit float64) { return f.sensor.read() }

// Can says what else the folder can do.
func (f *Folder) Can() drivetest.Capabilities {
	return drivetest.Capabilities{Grow: f.CreateGrowing, Spread: f.CreateSpread, Trim: f.Trim, Existing: f.Existing,
		Sample: f.Sample, Temperature: f.Temperature, Rest: f.Rest, WatchWork: f.WatchWork, Load: f.LoadProcessor,
		Placement: placementOf, Slept: slept}
}

// placementOf is where on its drive a test file lies.
func placementOf(f drivetest.File) (from, to float64, ok bool) {
	if t, is := f.(interface {
		Placement() (from, to float64, ok bool)
	}); is { // not on every system
		return t.Placement()
	}
	return 0, 0, false
}

// Create makes a test file of size bytes for direct I/O.
func (f *Folder) Create(_ context.Context, size int64) (drivetest.File, error) {
	return f.create(size)
}

// CreateGrowing makes a test file that grows as it is written.
func (f *Folder) CreateGrowing(context.Context, int64) (drivetest.File, error) { return f.create(0) }

// layAlign is an alignment that every drive accepts.
const layAlign = 1 << 20

// create makes a test file, where the system can without a name or gone with
// the process, otherwise with a name and a signature by which it is found and
// removed at the next start.
func (f *Folder) create(size int64) (*testFile, error) {
	t := &testFile{of: f, origin: f.origin}
	var err error
	if t.handle, t.path, err = openTest(f.dir, f.named); err != nil {
		return nil, f.refusal(err)
	}
	if err := t.prepare(size); err != nil {
		return nil, errors.Join(err, t.Close())
	}
	return t, nil
}

// refusal says why a test file cannot be made.
func (f *Folder) refusal(err error) error {
	switch {
	case isNoDirectIO(err):
		return fmt.Errorf("%w: %s on %s", drivetest.ErrNoDirectIO, f.dir, f.facts.FileSystem)
	case errors.Is(err, os.ErrPermission), isReadOnly(err):
		return fmt.Errorf("the folder %s cannot be written: %w", f.dir, err)
	case isNoRoom(err):
		return fmt.Errorf("%w in %s", drivetest.ErrNoRoom, f.dir)
	}
	return fmt.Errorf("making a test file in %s: %w", f.dir, err)
}

// testFile is an open test file. Its content begins at base, behind the
// signature where it has a name.
type testFile struct {
	handle
	of     *Folder
	path   string // "" where it has no name
	base   int64
	align  int64
	origin time.Time // of the volume's clock
}

// prepare asks for the file's alignment, signs it where it has a name, and
// reserves its room.
func (t *testFile) prepare(size int64) error {
	if t.align = t.handle.align(); t.align == 0 {
		return fmt.Errorf("%w (the system says so of this file)", drivetest.ErrNoDirectIO)
	}
	if t.path != "" {
		t.base = layAlign
		head := t.Buffer(4096)
		copy(head, signature)
		if _, err := whole(head, 0, t.writeAt); err != nil {
			return fmt.Errorf("signing the test file: %w", err)
		}
	}
	if size == 0 { // it grows by itself
		return nil
	}
	if err := t.reserve(t.base + size); err != nil {
		if isNoRoom(err) {
			return fmt.Errorf("%w for a test file of %d MiB", drivetest.ErrNoRoom, size>>20)
		}
		return fmt.Errorf("reserving room for the test file: %w", err)
	}
	// The first direct read tells for certain whether it can be done: it is not
	// refused, and brings nothing into memory that was not there.
	before := inPageCache(t.handle, t.base, 4096)
	if _, err := whole(t.Buffer(4096), t.base, t.readAt); err != nil {
		if isNoDirectIO(err) {
			return fmt.Errorf("%w (a direct read was refused)", drivetest.ErrNoDirectIO)
		}
		return fmt.Errorf("reading the test file: %w", err)
	}
	if !before && inPageCache(t.handle, t.base, 4096) {
		return fmt.Errorf("%w (a direct read was taken, and went by memory)", drivetest.ErrNoDirectIO)
	}
	return nil
}

// Buffer returns n bytes aligned to 4 KiB or the file's alignment.
func (t *testFile) Buffer(n int64) []byte { return aligned(n, t.align) }

func aligned(n, align int64) []byte {
	align = max(align, 4096)
	raw := make([]byte, n+align)
	off := (align - int64(uintptr(unsafe.Pointer(&raw[0])))&(align-1)) & (align - 1)
	return raw[off : off+n : off+n]
}

// Flush makes everything written durable.
func (t *testFile) Flush() error { return t.flush() }

// Close ends the file and removes it.
func (t *testFile) Close() error {
	if t.of != nil {
		t.of.freeing(t.handle)
	}
	err := t.close()
	if t.path != "" {
		if gone := os.Remove(t.path); !errors.Is(gone, os.ErrNotExist) {
			err = errors.Join(gone, err)
		}
	}
	return err
}

// Queue opens a queue: with depth 1 requests run in the caller; deeper ones are
// handed to the system itself where it can take many, else to workers.
func (t *testFile) Queue(depth int) drivetest.Queue {
	return openQueue(t.handle, t.base, t.origin, depth)
}

// Trim tells the drive that what the removed test files held is free, so that it does not
// carry it on. The error says what keeps it from being done: [drivetest.ErrNoTrim],
// [drivetest.ErrTrimForbidden] or what the system said.
func (f *Folder) Trim() error {
	f.mu.Lock()
	freed := f.freed
	f.freed = nil
	f.mu.Unlock()
	if len(freed) == 0 {
		return drivetest.ErrNoTrim
	}
	return f.trim(freed)
}
