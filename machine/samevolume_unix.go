//go:build !windows

package machine

import (
	"os"
	"syscall"
)

// SameVolume reports whether two folders lie on one file system.
func SameVolume(a, b string) bool {
	dev := func(dir string) (uint64, bool) {
		info, err := os.Stat(dir)
		if err != nil {
			return 0, false
		}
		st, ok := info.Sys().(*syscall.Stat_t)
		if !ok {
			return 0, false
		}
		return uint64(st.Dev), true
	}
	x, ok := dev(a)
	y, also := dev(b)
	return ok && also && x == y
}
