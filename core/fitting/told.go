package fitting

import (
	"fmt"
	"slices"
	"strings"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// telling is the shop's knowledge of a model completed by the computer's own facts, and those in words, by check.
type telling struct {
	Model
	told map[string]string
}

// tell adds to what the shop knows of a model what the computer itself tells: the slots of its
// board, the drive that is in the place
// now, and how it starts. What is known stays as it is.
func tell(m *Model, d *job.Drive, s job.Shape, f *hardware.Facts, old *hardware.Drive) telling {
	t := telling{Model: *m, told: map[string]string{}}
	if f == nil {
		return t
	}
	// Only a drive of the same form fits into the old drive's slot: an M.2 drive can't replace a 2.5-inch disk there.
	disk := d.Kind == job.HDD || d.Kind == job.Hybrid
	bay := s.Form == job.Form25 || s.Form == job.Form35 || disk && s.Form == ""
	sata := (disk || d.Kind == job.SataSSD) && bay
	stick := s.Form == job.FormM2 || s.Form == ""
	if old != nil && old.Attached != nil && len(t.Place.Speaks) == 0 {
		switch port := old.Attached.Port; {
		case port == job.PortSATA && sata:
			t.Place.Speaks, t.told["speaks"] = []string{SATA}, "the old drive hangs on it by SATA"
		case (port == job.PortM2 || port == job.PortPCIe) && d.Kind == job.NVMe && stick:
			t.Place.Speaks, t.told["speaks"] = []string{NVMe}, "the old drive hangs on it by NVMe"
		}
	}
	if s.Form == job.FormM2 || d.Kind == job.NVMe && s.Form == "" {
		t.slot(f, d, old)
	}
	if d.Kind == job.NVMe && t.StartsNVMe == nil {
		switch at := f.SystemDrive(); {
		case at != nil && at.Kind == job.NVMe:
			yes := true
			t.StartsNVMe, t.told["starts"] = &yes, "it started from one"
		case f.System.StartMode == hardware.BIOS:
			t.told["starts"] = "it starts in BIOS mode; most start from NVMe in UEFI mode only, and the system has " +
				"to be made for that"
		case f.System.StartMode == hardware.UEFI:
			t.told["starts"] = "it starts in UEFI mode; an old firmware may still not know NVMe"
		}
	}
	return t
}

// slot is what the board reports of a slot for an M.2 drive.
func (t *telling) slot(f *hardware.Facts, d *job.Drive, old *hardware.Drive) {
	var free, taken, unsaid []hardware.Slot
	for _, l := range f.Slots {
		if l.Kind != hardware.SlotM2 || l.Key != "M" && l.Key != "B" { // the others are for radios
			continue
		}
		switch {
		case l.Used == nil:
			unsaid = append(unsaid, l)
		case *l.Used:
			taken = append(taken, l)
		default:
			free = append(free, l)
		}
	}
	inSlot := old != nil && old.Attached != nil && old.Attached.Port == job.PortM2
	at, says := free, "free as the board tells"
	switch {
	case len(free) > 0:
	case inSlot && len(taken) > 0:
		at, says = taken, "the old drive's as the board tells"
	case len(unsaid) > 0:
		t.told["form"] = "the board tells of " + named(unsaid) + ", and not whether it is free"
		return
	case len(taken) > 0:
		t.told["form"] = "the board tells of " + named(taken) + ", in use"
		return
	case f.Slots != nil:
		t.told["form"] = "the board tells of no M.2 slot for drives"
		return
	default:
		return
	}
	if t.Place.Form == "" {
		t.Place.Form = job.FormM2
		t.told["form"] = named(at) + ", " + says
	}
	if key := at[0].Key; t.Place.Key == "" &&
		!slices.ContainsFunc(at, func(l hardware.Slot) bool { return l.Key != key }) {
		t.Place.Key, t.told["key"] = key, "as the board tells"
	}
	if at[0].Lanes > 0 && len(t.Place.Speaks) == 0 && d.Kind == job.NVMe {
		t.Place.Speaks, t.told["speaks"] = []string{NVMe}, fmt.Sprintf("PCIe x%d as the board tells", at[0].Lanes)
	}
}

// named are the names of slots.
func named(list []hardware.Slot) string {
	names := make([]string, len(list))
	for i, l := range list {
		if names[i] = l.Name; l.Name == "" {
			names[i] = "an M.2 slot"
		}
	}
	return strings.Join(names, ", ")
}
