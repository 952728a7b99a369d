package words

import (
	"fmt"
	"strings"

	"nowthen/core/job"
)

// kindNames names the kinds of drive for people.
var kindNames = map[string]string{
	job.HDD: "hard disk", job.SataSSD: "SATA SSD", job.NVMe: "NVMe SSD", job.EMMC: "eMMC", job.Hybrid: "hybrid drive",
	job.Cached: "disk with cache drive", job.USBFlash: "USB flash",
}

// DriveName names a drive for people: "500 GB hard disk, Halden Turnstone 500".
func DriveName(d *job.Drive) string {
	if d == nil {
		return ""
	}
	name := kindNames[d.Kind]
	switch gb := float64(d.CapacityBytes) / 1e9; {
	case gb >= 1000:
		name = fmt.Sprintf("%.3g TB %s", gb/1000, name)
	case gb > 0:
		name = fmt.Sprintf("%.0f GB %s", gb, name)
	}
	if label := strings.TrimSpace(d.Maker + " " + d.Model); label != "" {
		name += ", " + label
	}
	return name
}
