//go:build unix

package contents

import (
	"io/fs"
	"os"
	"syscall"

	"golang.org/x/sys/unix"
)

// open opens a file, fails if it has become a link, and doesn't block if it has become a pipe.
func open(path string) (*os.File, error) {
	return os.OpenFile(path, os.O_RDONLY|unix.O_NOFOLLOW|unix.O_NONBLOCK, 0)
}

// elsewhere reports whether a folder is of another file system than the one that is read.
func elsewhere(top, info fs.FileInfo) bool {
	a, ok := top.Sys().(*syscall.Stat_t)
	b, also := info.Sys().(*syscall.Stat_t)
	return ok && also && a.Dev != b.Dev
}

func inCloud(fs.FileInfo) bool { return false }
