//go:build !linux

package machine

import (
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
)

// onDrive returns a folder for a test that is on a drive. It is removed file
// by file: os.RemoveAll asks for more than every stand-in of this system has.
func onDrive(t testing.TB) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "now-then-")
	require.NoError(t, err)
	t.Cleanup(func() {
		var all []string
		_ = filepath.WalkDir(dir, func(path string, _ fs.DirEntry, _ error) error {
			all = append(all, path)
			return nil
		})
		for _, path := range slices.Backward(all) {
			_ = os.Chmod(path, 0o700)
			require.NoError(t, os.Remove(path))
		}
	})
	return dir
}
