package machine

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSystemFolder(t *testing.T) {
	for dir, is := range map[string]bool{
		"/": true, "//": true, "/etc": true, "/etc/": true, "/etc/nowthen": true, "/usr/local/x": true, "/boot": true, "/boot/efi": true, "/home/../etc": true, "/./": true,
		"/etcetera": false, "/home/runa": false, "/mnt/new": false, "/root": false, "/media/usr/drive": false, "/tmp": false,
	} {
		assert.Equal(t, is, SystemFolder(dir), dir)
	}
	link := filepath.Join(t.TempDir(), "harmless")
	require.NoError(t, os.Symlink("/etc", link))
	assert.True(t, SystemFolder(link), "links are followed")
	assert.True(t, SystemFolder(filepath.Join(link, "ssl")))
}
