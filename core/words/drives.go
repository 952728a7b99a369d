package words

import (
	"fmt"
	"strings"

	"nowthen/core/job"
	"nowthen/core/message"
)

// DriveKind is what a drive is, without its label: "500 GB hard disk".
func (in *Language) DriveKind(d *job.Drive) string {
	name := in.Say("kind." + string(d.Kind))
	switch gb := float64(d.CapacityBytes) / 1e9; {
	case gb >= 1000:
		return in.sized(in.Number(fmt.Sprintf("%.3g", gb/1000)), "TB", name)
	case gb > 0:
		return in.sized(fmt.Sprintf("%.0f", gb), "GB", name)
	}
	return name
}

// sized joins a drive's size with its kind: "500 GB hard disk", "500-GB-Festplatte".
func (in *Language) sized(size, unit, kind string) string {
	return in.Say("drive-sized", message.Values{"Size": size, "Unit": unit, "Kind": kind})
}

// DriveNamed names a drive within a sentence: "500 GB hard disk (Halden Turnstone 500)".
func (in *Language) DriveNamed(d *job.Drive) string {
	kind, model, ok := strings.Cut(in.DriveName(d), ", ")
	if !ok {
		return kind
	}
	return kind + " (" + model + ")"
}

// DriveName names a drive for people: "500 GB hard disk, Halden Turnstone 500".
func (in *Language) DriveName(d *job.Drive) string {
	if d == nil {
		return ""
	}
	name := in.DriveKind(d)
	if label := strings.TrimSpace(d.Maker + " " + d.Model); label != "" {
		name += ", " + label
	}
	return name
}
