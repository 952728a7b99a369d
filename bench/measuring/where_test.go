package measuring

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// A round on the bench's own computer notes the drive that holds its folder, whatever link leads there.
func TestWhereARoundIs(t *testing.T) {
	dir, err := filepath.EvalSymlinks(t.TempDir())
	require.NoError(t, err)
	link := filepath.Join(dir, "link")
	require.NoError(t, os.Mkdir(filepath.Join(dir, "drive"), 0o700))
	require.NoError(t, os.Symlink(filepath.Join(dir, "drive"), link))
	f := &hardware.Facts{Computer: hardware.Computer{Maker: "Larkfield", Model: "Bench 1", Processor: "8 cores"},
		Drives: []hardware.Drive{{ID: "sdb", Kind: job.HDD, CapacityBytes: 5e11, SerialDigest: "0123",
			Attached: &job.Attached{Port: job.PortUSB}}, {ID: "sda", Kind: job.NVMe}},
		Volumes: []hardware.Volume{{Mount: filepath.Join(dir, "drive"), Drive: "sdb"}, {Mount: "/", Drive: "sda"}}}
	for _, at := range []string{filepath.Join(dir, "drive"), link} {
		w, here := placeOf(f, at)
		assert.Equal(t, &job.Where{Computer: "bench", Port: "usb", DriveDigest: "0123", CapacityBytes: 5e11,
			Kind: job.HDD}, w)
		assert.Equal(t, "Bench 1", here.Model)
	}
	w, _ := placeOf(&hardware.Facts{}, dir)
	assert.Equal(t, &job.Where{Computer: "bench"}, w, "what is not known is not noted")
	assert.True(t, sameComputer(&job.Computer{Maker: "Larkfield", Model: "Bench 1", Processor: "8 cores"}, f.Computer))
	for _, c := range []*job.Computer{nil, {}, {Maker: "Larkfield", Model: "Bench 2", Processor: "8 cores"},
		{Maker: "Larkfield", Model: "Bench 1"}} {
		assert.False(t, sameComputer(c, f.Computer))
	}
	assert.False(t, sameComputer(&job.Computer{}, hardware.Computer{}), "two that nobody described")
}
