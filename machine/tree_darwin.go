package machine

import (
	"errors"
	"os"

	"golang.org/x/sys/unix"
)

// Forget makes a file durable. Its pages leave the cache when it is read with
// F_NOCACHE; this system has no call that reports whether they did.
func Forget(path string) error { return syncFiles("", []string{path}) }

// openCold opens a file past the cache.
func openCold(path string) (*os.File, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	if _, err := unix.FcntlInt(f.Fd(), unix.F_NOCACHE, 1); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return f, nil
}

// syncFiles makes files durable one by one.
func syncFiles(_ string, files []string) error { return syncEach(files) }
