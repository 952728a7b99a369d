package machine

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/capacity"
	"nowthen/core/drivetest"
)

// Marked blocks over a file whose room was not written come back, its last one first written.
func TestAFileThatIsSpread(t *testing.T) {
	f, err := OpenFolder(onDrive(t))
	require.NoError(t, err)
	file, err := f.CreateSpread(t.Context(), 16<<20)
	require.NoError(t, err)
	q := file.Queue(1)
	buf := file.Buffer(capacity.BlockBytes)
	for i := range buf {
		buf[i] = byte(i)
	}
	const last = 16<<20 - capacity.BlockBytes
	q.Start(&drivetest.Request{Write: true, Offset: last, Data: buf})
	require.NoError(t, q.Wait().Err)
	clear(buf)
	q.Start(&drivetest.Request{Offset: last, Data: buf})
	require.NoError(t, q.Wait().Err)
	assert.Equal(t, byte(77), buf[77])
	q.Close()
	require.NoError(t, file.Close())

	p := capacity.Sample(16<<20, 2<<20, 1)
	r, err := capacity.Verify(t.Context(), f, p, 9, func(float64) {})
	require.NoError(t, err)
	assert.True(t, r.Holds())
}

func TestWhichFileSystemsFillUp(t *testing.T) {
	for name, fills := range map[string]bool{"NTFS": true, "exfat": true, "vfat": true, "ext4": false, "btrfs": false,
		"apfs": false} {
		f := &Folder{facts: drivetest.Facts{FileSystem: name}}
		assert.Equal(t, fills && !mayLeaveUnwritten(), f.FillsUp(), name)
	}
}
