//go:build !windows

package machine

import (
	"io/fs"
	"syscall"
)

// sparse reports whether a file has fewer bytes on the drive than it is long:
// reading holes, or what the file system has made smaller, is no reading.
func sparse(info fs.FileInfo) bool {
	st, ok := info.Sys().(*syscall.Stat_t)
	return !ok || st.Blocks*512 < info.Size()/100*95
}
