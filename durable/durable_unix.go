//go:build !windows

package durable

import (
	"errors"
	"os"
	"syscall"
)

// syncFolder puts what a folder lists on the drive. File systems that cannot do so keep the
// order by themselves.
func syncFolder(dir string) error {
	f, err := os.Open(dir)
	if err != nil {
		return err
	}
	err = f.Sync()
	if errors.Is(err, syscall.EINVAL) || errors.Is(err, syscall.ENOTSUP) {
		err = nil
	}
	return errors.Join(err, f.Close())
}

// lives reports whether there is a process.
func lives(pid int) bool {
	err := syscall.Kill(pid, 0)
	return err == nil || errors.Is(err, syscall.EPERM)
}
