package contents

import (
	"io/fs"
	"os"
	"syscall"
)

func open(path string) (*os.File, error) { return os.Open(path) }

// elsewhere: what is mounted in a folder shows as a link here, which is not followed.
func elsewhere(fs.FileInfo, fs.FileInfo) bool { return false }

// Attributes of a file whose content is fetched when it is opened (winnt.h).
const (
	attributeOffline      = 0x1000
	attributeRecallOnOpen = 0x40000
	attributeRecallOnRead = 0x400000
)

func inCloud(info fs.FileInfo) bool {
	a, ok := info.Sys().(*syscall.Win32FileAttributeData)
	return ok && a.FileAttributes&(attributeOffline|attributeRecallOnOpen|attributeRecallOnRead) != 0
}
