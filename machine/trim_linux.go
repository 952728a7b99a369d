package machine

import (
	"errors"
	"fmt"
	"unsafe"

	"golang.org/x/sys/unix"

	"nowthen/core/drivetest"
)

// fstrimRange is the request of FITRIM: a stretch of the file system, bytes
// (linux/fs.h).
type fstrimRange struct{ start, length, least uint64 }

const fiTrim = 0xc0185879

// freeing remembers where a test file lay that is about to be removed.
func (f *Folder) freeing(h handle) {
	of, ok := h.(file)
	if !ok {
		return
	}
	if list, err := extents(of.fd); err == nil {
		f.mu.Lock()
		f.freed = append(f.freed, list...)
		f.mu.Unlock()
	}
}

// trim tells the drive that stretches of the folder's file system hold nothing any more.
func (f *Folder) trim(freed []extent) error {
	fd, err := retry(func() (int, error) { return unix.Open(f.dir, unix.O_RDONLY|unix.O_DIRECTORY|unix.O_CLOEXEC, 0) })
	if err != nil {
		return fmt.Errorf("trimming: %w", err)
	}
	defer unix.Close(fd)
	for _, e := range freed {
		r := fstrimRange{start: uint64(e.from), length: uint64(e.to - e.from)}
		_, _, errno := unix.Syscall(unix.SYS_IOCTL, uintptr(fd), fiTrim, uintptr(unsafe.Pointer(&r)))
		switch {
		case errno == 0 || errno == unix.EINVAL: // a stretch smaller than what the drive trims
		case errors.Is(errno, unix.EPERM) || errors.Is(errno, unix.EACCES):
			return drivetest.ErrTrimForbidden
		case errors.Is(errno, unix.EOPNOTSUPP) || errors.Is(errno, unix.ENOTTY):
			return drivetest.ErrNoTrim
		default:
			return fmt.Errorf("trimming: %w", errno)
		}
	}
	return nil
}
