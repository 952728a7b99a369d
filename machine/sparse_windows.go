package machine

import (
	"io/fs"
	"syscall"
)

// sparse reports whether the system keeps the file compressed, with holes, or not
// on this drive at all.
func sparse(info fs.FileInfo) bool {
	a, ok := info.Sys().(*syscall.Win32FileAttributeData)
	const compressed, holes, offline = 0x800, 0x200, 0x1000
	return !ok || a.FileAttributes&(compressed|holes|offline) != 0
}
