package hardware

import (
	"slices"
	"strings"

	"nowthen/core/job"
)

// VolumeOf is the volume on which a folder lies: the one with the longest mount above it; nil where none is known.
func (f *Facts) VolumeOf(dir string) *Volume {
	var on *Volume
	for i := range f.Volumes {
		v := &f.Volumes[i]
		if under(v.Mount, dir) && (on == nil || len(v.Mount) > len(on.Mount)) {
			on = v
		}
	}
	return on
}

// under reports whether a folder is a mount or lies beneath it. A mount that is a letter is one in capitals or not.
func under(mount, dir string) bool {
	if len(mount) == 2 && mount[1] == ':' {
		return len(dir) >= 2 && strings.EqualFold(dir[:2], mount)
	}
	return dir == mount || strings.HasPrefix(dir, strings.TrimSuffix(mount, "/")+"/")
}

// Beside are the names of the drives attached to a computer other than the one that holds a folder; ok is false
// if that one isn't known.
func (f *Facts) Beside(dir string) (names []string, ok bool) {
	v := f.VolumeOf(dir)
	if v == nil || v.Drive == "" {
		return nil, false
	}
	names = []string{}
	for _, d := range f.Drives {
		if d.ID == v.Drive {
			continue
		}
		name := strings.Join(strings.Fields(d.Maker+" "+d.Model), " ")
		if name == "" {
			name = "a drive without a name"
		}
		if d.Kind == job.USBFlash || d.Attached != nil && d.Attached.Port == job.PortUSB {
			name += " (USB)"
		}
		names = append(names, name)
	}
	slices.Sort(names)
	return names, true
}
