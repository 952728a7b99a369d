package machine

import (
	"context"
	"slices"
	"strings"

	"nowthen/core/drivetest"
)

// CreateSpread makes a test file of which a place far from its beginning can be written without
// what lies before, where the system can
// be told so; see [Folder.FillsUp].
func (f *Folder) CreateSpread(_ context.Context, size int64) (drivetest.File, error) {
	may := mayLeaveUnwritten() // asked for before the file is opened
	t, err := f.create(size)
	if err == nil && may {
		// if it is refused, everything before is written as well; nothing else changes
		_ = leaveUnwritten(t.handle, t.base+size)
	}
	return t, err
}

// filling are file systems without unwritten extents: writing at an offset also writes everything before it.
var filling = []string{"ntfs", "ntfs3", "fuseblk", "exfat", "vfat", "msdos", "fat", "fat32", "hfs"}

// FillsUp reports whether a place far from the beginning of a file is written only with all that lies before it.
func (f *Folder) FillsUp() bool {
	return slices.Contains(filling, strings.ToLower(f.facts.FileSystem)) && !mayLeaveUnwritten()
}
