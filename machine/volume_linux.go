package machine

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"syscall"
	"time"
	"unsafe"

	"golang.org/x/sys/unix"

	"nowthen/core/drivetest"
)

// Folder is a volume: a folder on a real file system, tested with direct I/O.
type Folder struct {
	dir    string
	facts  drivetest.Facts
	origin time.Time
	named  bool // make a file with a name although the file system could do without
}

// memoryFileSystems keep files in memory; reading them says nothing of a drive.
var memoryFileSystems = map[int64]string{
	unix.TMPFS_MAGIC:      "tmpfs",
	unix.RAMFS_MAGIC:      "ramfs",
	unix.HUGETLBFS_MAGIC:  "hugetlbfs",
	unix.PROC_SUPER_MAGIC: "proc",
	unix.SYSFS_MAGIC:      "sysfs",
}

// fileSystems names the usual ones for people.
var fileSystems = map[int64]string{
	unix.EXT4_SUPER_MAGIC:      "ext4",
	unix.XFS_SUPER_MAGIC:       "xfs",
	unix.BTRFS_SUPER_MAGIC:     "btrfs",
	unix.MSDOS_SUPER_MAGIC:     "vfat",
	unix.EXFAT_SUPER_MAGIC:     "exfat",
	unix.F2FS_SUPER_MAGIC:      "f2fs",
	unix.NFS_SUPER_MAGIC:       "nfs",
	unix.OVERLAYFS_SUPER_MAGIC: "overlay",
	0x5346544e:                 "ntfs",
}

// OpenFolder checks a folder and returns it as a volume. The error says what
// is wrong with the folder: not there, not a folder, read-only, in memory, or
// without direct I/O.
func OpenFolder(dir string) (*Folder, error) {
	if !filepath.IsAbs(dir) {
		return nil, fmt.Errorf("%q is not a whole path; give the folder from the root on", dir)
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
	var st unix.Statfs_t
	if err := unix.Statfs(dir, &st); err != nil {
		return nil, fmt.Errorf("the file system of %s cannot be asked: %w", dir, err)
	}
	if name, ok := memoryFileSystems[int64(st.Type)]; ok {
		return nil, fmt.Errorf("%w: %s lies on %s, which is not on a drive", drivetest.ErrNoDirectIO, dir, name)
	}
	name, ok := fileSystems[int64(st.Type)]
	if !ok {
		name = fmt.Sprintf("type %x", st.Type)
	}
	f := &Folder{dir: dir, origin: time.Now(), facts: drivetest.Facts{
		FileSystem: name,
		TotalBytes: int64(st.Blocks) * st.Bsize,
		FreeBytes:  int64(st.Bavail) * st.Bsize,
	}}
	// Making a small file tells whether the folder can be written and read directly.
	probe, err := f.create(layAlign)
	if err != nil {
		return nil, err
	}
	f.facts.AlignBytes = probe.align
	return f, probe.Close()
}

// Dir is the folder's path.
func (f *Folder) Dir() string { return f.dir }

// Facts says what the volume is; the free space is that of opening.
func (f *Folder) Facts() drivetest.Facts { return f.facts }

// Now is the time since the folder was opened, on the monotonic clock.
func (f *Folder) Now() time.Duration { return time.Since(f.origin) }

// Create makes a test file of size bytes for direct I/O.
func (f *Folder) Create(_ context.Context, size int64) (drivetest.File, error) {
	return f.create(size)
}

// layAlign is an alignment that every drive accepts.
const layAlign = 1 << 20

// create makes a test file, where the file system can without a name, so that
// it is gone with the process whatever happens; otherwise with a name and a
// signature by which it is found and removed at the next start.
func (f *Folder) create(size int64) (*testFile, error) {
	flags := unix.O_RDWR | unix.O_DIRECT | unix.O_CLOEXEC
	t := &testFile{size: size, origin: f.origin}
	fd := -1
	err := error(unix.EOPNOTSUPP)
	if !f.named {
		fd, err = retry(func() (int, error) { return unix.Open(f.dir, flags|unix.O_TMPFILE, 0o600) })
	}
	if errors.Is(err, unix.EOPNOTSUPP) || errors.Is(err, unix.EISDIR) {
		t.path = filepath.Join(f.dir, testFileName())
		fd, err = retry(func() (int, error) {
			return unix.Open(t.path, flags|unix.O_CREAT|unix.O_EXCL|unix.O_NOFOLLOW, 0o600)
		})
	}
	switch {
	case errors.Is(err, unix.EINVAL):
		if t.path != "" {
			_ = os.Remove(t.path) // some systems make the file before they refuse the flag
		}
		return nil, fmt.Errorf("%w: %s on %s", drivetest.ErrNoDirectIO, f.dir, f.facts.FileSystem)
	case errors.Is(err, unix.EROFS), errors.Is(err, unix.EACCES), errors.Is(err, unix.EPERM):
		return nil, fmt.Errorf("the folder %s cannot be written: %w", f.dir, err)
	case errors.Is(err, unix.ENOSPC), errors.Is(err, unix.EDQUOT):
		return nil, fmt.Errorf("%w in %s", drivetest.ErrNoRoom, f.dir)
	case err != nil:
		return nil, fmt.Errorf("making a test file in %s: %w", f.dir, err)
	}
	t.fd = fd
	if err := t.prepare(); err != nil {
		_ = t.Close()
		return nil, err
	}
	return t, nil
}

// testFile is an open test file. Its content begins at base, behind the
// signature where it has a name.
type testFile struct {
	fd     int
	path   string // "" where it has no name
	base   int64
	size   int64
	align  int64
	origin time.Time // of the volume's clock
}

// prepare signs the file, asks for its alignment and reserves its room, so
// that writing does not wait for the file to grow.
func (t *testFile) prepare() error {
	t.align = 4096
	var stx unix.Statx_t
	if err := unix.Statx(t.fd, "", unix.AT_EMPTY_PATH, unix.STATX_DIOALIGN, &stx); err == nil && stx.Mask&unix.STATX_DIOALIGN != 0 {
		if stx.Dio_offset_align == 0 {
			return fmt.Errorf("%w (the system says so of this file)", drivetest.ErrNoDirectIO)
		}
		t.align = int64(max(stx.Dio_offset_align, stx.Dio_mem_align))
	}
	if t.path != "" {
		t.base = layAlign
		head := t.Buffer(4096)
		copy(head, signature)
		if _, err := retry(func() (int, error) { return unix.Pwrite(t.fd, head, 0) }); err != nil {
			return fmt.Errorf("signing the test file: %w", err)
		}
	}
	_, err := retry(func() (int, error) { return 0, unix.Fallocate(t.fd, 0, 0, t.base+t.size) })
	switch {
	case errors.Is(err, unix.ENOSPC), errors.Is(err, unix.EDQUOT):
		return fmt.Errorf("%w for a test file of %d MiB", drivetest.ErrNoRoom, t.size>>20)
	case err != nil && !errors.Is(err, unix.EOPNOTSUPP):
		return fmt.Errorf("reserving room for the test file: %w", err)
	}
	// The first direct request tells for certain whether it can be done.
	page := t.Buffer(4096)
	if _, err := retry(func() (int, error) { return unix.Pread(t.fd, page, t.base) }); err != nil {
		if errors.Is(err, unix.EINVAL) {
			return fmt.Errorf("%w (a direct read was refused)", drivetest.ErrNoDirectIO)
		}
		return fmt.Errorf("reading the test file: %w", err)
	}
	return nil
}

// retry repeats a call that a signal interrupted.
func retry[T any](call func() (T, error)) (T, error) {
	for {
		v, err := call()
		if !errors.Is(err, unix.EINTR) {
			return v, err
		}
	}
}

// Buffer returns n bytes aligned to 4 KiB or the file's alignment.
func (t *testFile) Buffer(n int64) []byte {
	align := max(t.align, 4096)
	raw := make([]byte, n+align)
	off := align - int64(uintptr(unsafe.Pointer(&raw[0])))&(align-1)
	return raw[off : off+n : off+n]
}

// Flush makes everything written durable.
func (t *testFile) Flush() error {
	_, err := retry(func() (int, error) { return 0, unix.Fdatasync(t.fd) })
	return err
}

// Close ends the file and removes it.
func (t *testFile) Close() error {
	err := unix.Close(t.fd)
	if t.path != "" {
		err = errors.Join(os.Remove(t.path), err)
	}
	return err
}

// Queue opens a queue: with depth 1 requests run in the caller, else each of
// depth workers runs one at a time.
func (t *testFile) Queue(depth int) drivetest.Queue {
	if depth == 1 {
		return &inline{t: t}
	}
	p := &pool{in: make(chan *drivetest.Request, depth), out: make(chan *drivetest.Request, depth)}
	for range depth {
		go func() {
			for r := range p.in {
				t.do(r)
				p.out <- r
			}
		}()
	}
	return p
}

// do runs a request to its end. The times are those around the system call.
func (t *testFile) do(r *drivetest.Request) {
	r.Started = time.Since(t.origin)
	done := 0
	r.Err = nil
	for done < len(r.Data) {
		var n int
		var err error
		if r.Write {
			n, err = syscall.Pwrite(t.fd, r.Data[done:], t.base+r.Offset+int64(done))
		} else {
			n, err = syscall.Pread(t.fd, r.Data[done:], t.base+r.Offset+int64(done))
		}
		if err == syscall.EINTR {
			continue
		}
		if err != nil {
			r.Err = err
			break
		}
		if n == 0 {
			r.Err = io.ErrUnexpectedEOF
			break
		}
		done += n
	}
	r.Ended = time.Since(t.origin)
}

// inline runs requests in the caller, without a hand-over between threads.
type inline struct {
	t     *testFile
	ended *drivetest.Request
}

func (q *inline) Start(r *drivetest.Request) {
	q.t.do(r)
	q.ended = r
}

func (q *inline) Wait() *drivetest.Request { return q.ended }
func (q *inline) Close()                   {}

// pool runs requests on workers.
type pool struct{ in, out chan *drivetest.Request }

func (p *pool) Start(r *drivetest.Request) { p.in <- r }
func (p *pool) Wait() *drivetest.Request   { return <-p.out }
func (p *pool) Close()                     { close(p.in) }
