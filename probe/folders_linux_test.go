package probe

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/machine"
)

// Nothing is written in a folder of the system, whoever orders it; the top of the system's volume stands for its
// drive, and the test file lies in the user's own folder there.
func TestNoTestFileInTheSystemsFolders(t *testing.T) {
	for _, dir := range []string{"/etc", "/usr", "/boot", "/usr/share", "/bin", "/dev", "/proc", "/sys"} {
		_, err := This{}.Open(t.Context(), dir, false)
		assert.ErrorContains(t, err, "belongs to the system", dir)
	}
	place, err := This{}.Open(t.Context(), "/", false)
	if err != nil {
		assert.ErrorContains(t, err, "/", "it may have no folder of the user's")
		return
	}
	at := place.(*machine.Folder).Dir()
	assert.False(t, machine.SystemFolder(at), at)
	home, err := os.UserHomeDir()
	require.NoError(t, err)
	assert.Contains(t, []string{home, os.TempDir()}, at)
}
