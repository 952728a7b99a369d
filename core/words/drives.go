package words

import (
	"fmt"
	"strings"

	"nowthen/core/job"
)

// DriveName names a drive for people: "500 GB hard disk, Halden Turnstone 500".
func (in *Language) DriveName(d *job.Drive) string {
	if d == nil {
		return ""
	}
	name := in.Say("kind." + d.Kind)
	switch gb := float64(d.CapacityBytes) / 1e9; {
	case gb >= 1000:
		name = in.Number(fmt.Sprintf("%.3g", gb/1000)) + " TB " + name
	case gb > 0:
		name = fmt.Sprintf("%.0f GB %s", gb, name)
	}
	if label := strings.TrimSpace(d.Maker + " " + d.Model); label != "" {
		name += ", " + label
	}
	return name
}
