package machine

import (
	"errors"
	"path/filepath"
	"time"

	"golang.org/x/sys/unix"

	"nowthen/core/drivetest"
)

func fileSystemOf(dir string) (placement, error) {
	var st unix.Statfs_t
	if err := unix.Statfs(dir, &st); err != nil {
		return placement{}, err
	}
	name := unix.ByteSliceToString(st.Fstypename[:])
	p := placement{Facts: drivetest.Facts{FileSystem: name, TotalBytes: int64(st.Blocks) * int64(st.Bsize),
		FreeBytes: int64(st.Bavail) * int64(st.Bsize)}}
	switch name {
	case "tmpfs", "devfs", "autofs":
		p.kind = inMemory
	case "nfs", "smbfs", "afpfs", "webdav":
		p.kind = onNetwork
	}
	return p, nil
}

// file is a file that the system does not cache (F_NOCACHE).
type file struct{ fd int }

// openTest makes a test file and takes its name away at once, so that it is
// gone with the process whatever happens.
func openTest(dir string, named bool) (handle, string, error) {
	path := filepath.Join(dir, testFileName())
	fd, err := unix.Open(path, unix.O_RDWR|unix.O_CREAT|unix.O_EXCL|unix.O_NOFOLLOW|unix.O_CLOEXEC, 0o600)
	if err != nil {
		return nil, "", err
	}
	if !named {
		if err := unix.Unlink(path); err != nil {
			return nil, "", errors.Join(err, unix.Close(fd))
		}
		path = ""
	}
	return uncached(fd, path)
}

func openExisting(path string) (handle, error) {
	fd, err := unix.Open(path, unix.O_RDONLY|unix.O_NOFOLLOW|unix.O_CLOEXEC, 0)
	if err != nil {
		return nil, err
	}
	h, _, err := uncached(fd, "")
	return h, err
}

func uncached(fd int, path string) (handle, string, error) {
	if _, err := unix.FcntlInt(uintptr(fd), unix.F_NOCACHE, 1); err != nil {
		return nil, "", errors.Join(err, unix.Close(fd))
	}
	return file{fd}, path, nil
}

func (f file) readAt(p []byte, at int64) (int, error)  { return unix.Pread(f.fd, p, at) }
func (f file) writeAt(p []byte, at int64) (int, error) { return unix.Pwrite(f.fd, p, at) }
func (f file) close() error                            { return unix.Close(f.fd) }
func (f file) align() int64                            { return 4096 }

// flush goes through the drive's own cache too.
func (f file) flush() error {
	_, err := unix.FcntlInt(uintptr(f.fd), unix.F_FULLFSYNC, 0)
	return err
}

// inPageCache: this system is not asked yet.
func inPageCache(handle, int64, int64) bool { return false }

func (f file) reserve(size int64) error {
	s := unix.Fstore_t{Flags: unix.F_ALLOCATEALL, Posmode: unix.F_PEOFPOSMODE, Length: size}
	if err := unix.FcntlFstore(uintptr(f.fd), unix.F_PREALLOCATE, &s); err != nil && isNoRoom(err) {
		return err
	}
	return unix.Ftruncate(f.fd, size)
}

// systemQueue: this system has no queue for direct requests; workers take them.
func systemQueue(handle, int64, time.Time, int) drivetest.Queue { return nil }

func isInterrupted(err error) bool { return errors.Is(err, unix.EINTR) }
func isNoDirectIO(err error) bool  { return errors.Is(err, unix.EINVAL) || errors.Is(err, unix.ENOTSUP) }
func isReadOnly(err error) bool    { return errors.Is(err, unix.EROFS) }
func isNoRoom(err error) bool      { return errors.Is(err, unix.ENOSPC) || errors.Is(err, unix.EDQUOT) }
