package machine

import (
	"path/filepath"
	"strings"
)

// SameVolume reports whether two folders lie on one volume, by its letter.
func SameVolume(a, b string) bool {
	return filepath.VolumeName(a) != "" && strings.EqualFold(filepath.VolumeName(a), filepath.VolumeName(b))
}
