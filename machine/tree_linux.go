package machine

import (
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"syscall"
	"time"
	"unsafe"

	"golang.org/x/sys/unix"
)

// errStillCached means that a file's pages stayed in memory, so that reading it
// would not be reading the drive.
var errStillCached = errors.New("the system keeps the file in memory (another program may have it open), so that " +
	"reading it would not measure the drive")

// forgetTries is how often pages are dropped before giving up, over about a second in all.
const forgetTries = 40

// Forget drops a file's pages from the cache and checks whether they are gone; it returns an
// error where they stay. The file is opened for reading alone.
func Forget(path string) error {
	f, err := os.OpenFile(path, os.O_RDONLY|unix.O_NOFOLLOW, 0)
	if err != nil {
		return err
	}
	defer f.Close()
	fd := int(f.Fd())
	if err := unix.Fdatasync(fd); err != nil { // pages that are still to be written would stay
		return fmt.Errorf("%s: %w", path, err)
	}
	for try := range forgetTries {
		if try > 0 { // another thread may just hold a page: it lets go in a moment
			_ = unix.Fdatasync(fd)
			time.Sleep(time.Duration(try) * time.Millisecond)
		}
		if err := unix.Fadvise(fd, 0, 0, unix.FADV_DONTNEED); err != nil {
			return fmt.Errorf("%s: %w", path, err)
		}
		cached, err := isCached(f)
		if err != nil {
			return fmt.Errorf("%s: whether the file is in memory cannot be told: %w", path, err)
		}
		if !cached {
			return nil
		}
	}
	return fmt.Errorf("%s: %w", path, errStillCached)
}

// isCached reports whether any of a file is in memory. Asking changes nothing of that where
// the system tells; else see [comesAtOnce].
func isCached(f *os.File) (bool, error) {
	info, err := f.Stat()
	if err != nil {
		return false, err
	}
	told, err := tellsPages(f, info)
	if err != nil {
		return false, err
	}
	if !told {
		return comesAtOnce(f, info.Size())
	}
	const most = 1 << 30 // mapped at once
	for at := int64(0); at < info.Size(); at += most {
		if cached, err := isResident(int(f.Fd()), at, min(most, info.Size()-at)); cached || err != nil {
			return cached, err
		}
	}
	return false, nil
}

// tellsPages reports whether the system reports the resident pages of a file truthfully: it does so to its
// owner and to those who may write it (can_do_mincore in mm/mincore.c); to others it reports all as resident.
func tellsPages(f *os.File, info os.FileInfo) (bool, error) {
	if s, ok := info.Sys().(*syscall.Stat_t); ok && int(s.Uid) == os.Geteuid() || os.Geteuid() == 0 {
		return true, nil
	}
	switch err := unix.Faccessat(unix.AT_FDCWD, fmt.Sprintf("/proc/self/fd/%d", f.Fd()), unix.W_OK, unix.AT_EACCESS); {
	case err == nil:
		return true, nil
	case errors.Is(err, unix.EACCES), errors.Is(err, unix.EROFS), errors.Is(err, unix.EPERM):
		return false, nil
	default:
		return false, err
	}
}

// places is at how many places of a file is checked whether it comes at once.
const places = 16

// comesAtOnce tries to read without waiting at places all over the file: what is in memory
// comes at once, what is not does not come. Newer systems fetch what did not come all the
// same; that is waited for and dropped again.
func comesAtOnce(f *os.File, size int64) (bool, error) {
	fd := int(f.Fd())
	if err := unix.Fadvise(fd, 0, 0, unix.FADV_RANDOM); err != nil { // fetch nothing ahead
		return false, err
	}
	step := max(4096, size/places&^4095)
	var b [1]byte
	for at := int64(0); at < size; at += step {
		n, err := unix.Preadv2(fd, [][]byte{b[:]}, at, unix.RWF_NOWAIT)
		switch {
		case n > 0:
			return true, nil
		case errors.Is(err, unix.EAGAIN):
			if _, err := f.ReadAt(b[:], at); err != nil && !errors.Is(err, io.EOF) {
				return false, err
			}
		case err != nil:
			return false, err
		}
	}
	for try := range dropTries { // what is still on its way stays at the first
		if err := unix.Fadvise(fd, 0, 0, unix.FADV_DONTNEED); err != nil {
			return false, err
		}
		if there, err := isResident(fd, 0, size); err != nil || !there {
			break
		}
		time.Sleep(time.Duration(try) * time.Millisecond)
	}
	return false, nil
}

// dropTries is how often what was fetched to look at is dropped again.
const dropTries = 4

// isResident asks for the pages of a file from a whole page on by mapping them
// (mincore(2)). Of files that are not this user's the system says that all of them
// are in memory.
func isResident(fd int, at, size int64) (bool, error) {
	if size == 0 {
		return false, nil
	}
	m, err := unix.Mmap(fd, at, int(size), unix.PROT_READ, unix.MAP_SHARED)
	if err != nil {
		return false, err
	}
	defer func() { _ = unix.Munmap(m) }()
	pages := make([]byte, (len(m)+os.Getpagesize()-1)/os.Getpagesize())
	if _, _, errno := unix.Syscall(unix.SYS_MINCORE, uintptr(unsafe.Pointer(&m[0])), uintptr(len(m)),
		uintptr(unsafe.Pointer(&pages[0]))); errno != 0 {
		return false, errno
	}
	return slices.ContainsFunc(pages, func(p byte) bool { return p&1 != 0 }), nil
}

// openCold opens a file whose pages were dropped.
func openCold(path string) (*os.File, error) { return os.Open(path) }

// syncFiles makes everything in the file system durable, as one call.
func syncFiles(dir string, _ []string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	defer d.Close()
	return unix.Syncfs(int(d.Fd()))
}
