//go:build !linux

package machine

import "testing"

// onDrive returns a folder for a test that lies on a drive.
func onDrive(t *testing.T) string { return t.TempDir() }
