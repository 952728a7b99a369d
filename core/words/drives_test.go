package words

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/job"
)

func TestDriveName(t *testing.T) {
	for want, d := range map[string]*job.Drive{
		"":         nil,
		"NVMe SSD": {DriveLabel: job.DriveLabel{Kind: job.NVMe}},
		"500 GB SATA SSD": {DriveLabel: job.DriveLabel{Kind: job.SataSSD,
			CapacityBytes: 500_107_862_016}},
		"1 TB hard disk, Halden Turnstone": {DriveLabel: job.DriveLabel{Kind: job.HDD, CapacityBytes: 1_000_204_886_016,
			Maker: "Halden", Model: "Turnstone"}},
	} {
		assert.Equal(t, want, DriveName(d))
		assert.Equal(t, strings.Replace(want, ", Halden Turnstone", " (Halden Turnstone)", 1), English.DriveNamed(d))
	}
}
