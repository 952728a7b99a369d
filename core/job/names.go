package job

import (
	"fmt"
	"strings"
)

// kindNames names the kinds of drive for people.
var kindNames = map[string]string{
	HDD: "hard disk", SataSSD: "SATA SSD", NVMe: "NVMe SSD", EMMC: "eMMC", Hybrid: "hybrid drive",
	Cached: "disk with cache drive", USBFlash: "USB flash",
}

// DriveName names a drive for people: "500 GB hard disk, Halden Turnstone 500".
func DriveName(d *Drive) string {
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

// KnownKind tells whether there is such a kind of drive.
func KnownKind(kind string) bool { return kindNames[kind] != "" }
