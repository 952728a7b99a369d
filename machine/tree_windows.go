package machine

import (
	"io"
	"os"

	"golang.org/x/sys/windows"
)

// Forget makes a file durable. Its pages need not be dropped: openCold reads
// past the cache.
func Forget(path string) error { return syncEach([]string{path}) }

// uncachedFile reads a file past the cache: whole sectors into an aligned buffer.
type uncachedFile struct {
	f   *os.File
	buf []byte
	has []byte // what was read and not yet given
}

// openCold opens a file without buffering.
func openCold(path string) (io.ReadCloser, error) {
	p16, err := windows.UTF16PtrFromString(path)
	if err != nil {
		return nil, err
	}
	h, err := windows.CreateFile(p16, windows.GENERIC_READ, windows.FILE_SHARE_READ, nil, windows.OPEN_EXISTING,
		noBuffering|windows.FILE_FLAG_SEQUENTIAL_SCAN, 0)
	if err != nil {
		return nil, &os.PathError{Op: "open", Path: path, Err: err}
	}
	return &uncachedFile{f: os.NewFile(uintptr(h), path), buf: aligned(copyBlock, 4096)}, nil
}

func (u *uncachedFile) Read(p []byte) (int, error) {
	if len(u.has) == 0 {
		n, err := u.f.Read(u.buf)
		if n == 0 {
			return 0, err
		}
		u.has = u.buf[:n]
	}
	n := copy(p, u.has)
	u.has = u.has[n:]
	return n, nil
}

func (u *uncachedFile) Close() error { return u.f.Close() }

// syncFiles makes files durable one by one; a whole volume takes rights that a
// technician may not have.
func syncFiles(_ string, files []string) error { return syncEach(files) }
