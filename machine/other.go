//go:build !linux

package machine

import (
	"context"
	"time"

	"nowthen/core/drivetest"
)

// Folder is a volume: a folder on a real file system. On this operating system
// drives cannot be tested yet; everything else works.
type Folder struct{ dir string }

// OpenFolder refuses: there is no direct I/O for this system here yet.
func OpenFolder(string) (*Folder, error) { return nil, ErrUnsupported }

// Dir is the folder's path.
func (f *Folder) Dir() string { return f.dir }

// Facts says what the volume is.
func (f *Folder) Facts() drivetest.Facts { return drivetest.Facts{} }

// Now is the volume's clock.
func (f *Folder) Now() time.Duration { return 0 }

// Create refuses.
func (f *Folder) Create(context.Context, int64) (drivetest.File, error) { return nil, ErrUnsupported }

func power() (source, mode string) { return "", "" }

func encrypted(string) *bool { return nil }

func whole(string) bool { return true }
