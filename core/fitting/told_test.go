package fitting

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/checks"
	"nowthen/core/hardware"
	"nowthen/core/job"
)

// says is a check's state and what was found.
type says struct {
	state job.CheckState
	found string
}

// What nobody noted of a model, its computer tells as far as it can, and what it cannot stays unknown.
func TestWhatTheComputerTells(t *testing.T) {
	m2 := func(name, key string, lanes int, used *bool) hardware.Slot {
		return hardware.Slot{Name: name, Kind: hardware.SlotM2, Key: key, Lanes: lanes, Used: used}
	}
	on := func(port job.Port) *hardware.Drive { return &hardware.Drive{Attached: &job.Attached{Port: port}} }
	nvme := job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe},
		DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.FormM2, Key: "M"}}}
	ssd := job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD},
		DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.Form25, HeightMM: 7}}}
	for name, c := range map[string]struct {
		model Model
		drive job.Drive
		facts *hardware.Facts
		old   *hardware.Drive
		want  map[string]says // by check
	}{
		"nothing": {Model{}, nvme, nil, on(job.PortSATA),
			map[string]says{"form": {checks.Unknown, "m.2"}, "speaks": {checks.Unknown, "NVMe"},
				"starts": {checks.Unknown, "not known"}}},
		"a free slot": {Model{}, nvme,
			&hardware.Facts{Slots: []hardware.Slot{m2("WIFI", "E", 1, yn(false)), m2("M2_1", "M", 4, yn(false))},
				System: hardware.System{StartMode: hardware.UEFI}}, on(job.PortSATA),
			map[string]says{"form": {checks.Fine, "m.2; M2_1, free as the board tells"},
				"key": {checks.Fine, "M; as the board tells"}, "speaks": {checks.Fine,
					"NVMe; PCIe x4 as the board tells"},
				"starts": {checks.Unknown, "it starts in UEFI mode; an old firmware may still not know NVMe"}}},
		"the old drive's slot": {Model{}, nvme,
			&hardware.Facts{Slots: []hardware.Slot{m2("M2_1", "M", 0, yn(true))},
				Drives: []hardware.Drive{{ID: "n", Kind: job.NVMe}}, Volumes: []hardware.Volume{{Drive: "n",
					System: true}}}, on(job.PortM2),
			map[string]says{"form": {checks.Fine, "m.2; M2_1, the old drive's as the board tells"},
				"speaks": {checks.Fine, "NVMe; the old drive hangs on it by NVMe"}, "starts": {checks.Fine,
					"yes; it started from one"}}},
		"another's slot": {Model{}, nvme,
			&hardware.Facts{Slots: []hardware.Slot{m2("", "M", 4, yn(true))},
				System: hardware.System{StartMode: hardware.BIOS}}, on(job.PortSATA),
			map[string]says{"form": {checks.Unknown, "m.2; the board tells of an M.2 slot, in use"},
				"key": {checks.Unknown, "M"}, "speaks": {checks.Unknown, "NVMe"},
				"starts": {checks.Unknown,
					"it starts in BIOS mode; most start from NVMe in UEFI mode only, and the system has to be made " +
						"for that"}}},
		"it does not say whether it is free": {Model{}, nvme,
			&hardware.Facts{Slots: []hardware.Slot{m2("M2_1", "M", 4, nil)}}, on(job.PortSATA),
			map[string]says{"form": {checks.Unknown, "m.2; the board tells of M2_1, and not whether it is free"}}},
		"no slot": {Model{}, nvme,
			&hardware.Facts{Slots: []hardware.Slot{{Kind: hardware.SlotPCIe}}}, nil, map[string]says{"form": {checks.Unknown, "m.2; the board tells of no M.2 slot for drives"}}},
		"the other key": {Model{}, nvme,
			&hardware.Facts{Slots: []hardware.Slot{m2("M2_1", "B", 2,
				yn(false))}}, nil, map[string]says{"key": {checks.Wrong, "M; as the board tells"}}},
		"two keys": {Model{}, nvme,
			&hardware.Facts{Slots: []hardware.Slot{m2("M2_1", "B", 2, yn(false)),
				m2("M2_2", "M", 4, yn(false))}}, nil, map[string]says{"key": {checks.Unknown, "M"}}},
		"a disk on SATA": {Model{}, ssd, &hardware.Facts{}, on(job.PortSATA),
			map[string]says{"speaks": {checks.Fine, "SATA; the old drive hangs on it by SATA"},
				"form": {checks.Unknown, "2.5-inch"}}},
		"the shop knows": {Model{Place: Place{Form: job.FormM2, Key: "M", Speaks: []string{SATA}}},
			nvme, &hardware.Facts{Slots: []hardware.Slot{m2("M2_1", "M", 4,
				yn(false))}}, nil, map[string]says{"speaks": {checks.Wrong, "NVMe"}, "form": {checks.Fine, "m.2"}}},
		"NVMe that nobody measured": {Model{}, job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe}},
			&hardware.Facts{Slots: []hardware.Slot{m2("M2_1", "M", 1,
				yn(false))}}, nil, map[string]says{"form": {checks.Unknown, "M2_1, free as the board tells"},
				"speaks": {checks.Fine, "NVMe; PCIe x1 as the board tells"}}},
		"an NVMe card for a slot": {Model{},
			job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe},
				DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.FormCard}}},
			&hardware.Facts{Slots: []hardware.Slot{m2("M2_1", "M", 4,
				yn(false))}}, nil, map[string]says{"form": {checks.Unknown, "card"},
				"speaks": {checks.Unknown, "NVMe"}}},
		"a SATA stick of M.2": {Model{},
			job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD},
				DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.FormM2}}},
			&hardware.Facts{Slots: []hardware.Slot{m2("M2_1", "B", 2, yn(false))},
				System: hardware.System{StartMode: hardware.BIOS}}, nil,
			map[string]says{"form": {checks.Fine, "m.2; M2_1, free as the board tells"},
				"speaks": {checks.Unknown, "SATA"}, "starts": {"", ""}}},
		"no slot is told as no lane": {Model{}, nvme,
			&hardware.Facts{Slots: []hardware.Slot{m2("M2_1", "M", 0,
				yn(false))}}, nil, map[string]says{"speaks": {checks.Unknown, "NVMe"}}},
		"the old one in no slot": {Model{}, nvme, &hardware.Facts{Slots: []hardware.Slot{}}, on(job.PortM2),
			map[string]says{"form": {checks.Unknown, "m.2; the board tells of no M.2 slot for drives"},
				"speaks": {checks.Fine, "NVMe; the old drive hangs on it by NVMe"}}},
		"a stick of M.2 for a disk": {Model{},
			job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD},
				DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.FormM2}}}, &hardware.Facts{}, on(job.PortSATA),
			map[string]says{"speaks": {checks.Unknown, "SATA"}}},
		"an SSD of who knows which form": {Model{}, job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD}},
			&hardware.Facts{}, on(job.PortSATA), map[string]says{"speaks": {checks.Unknown, "SATA"}}},
		"an SSD of 3.5 inch": {Model{},
			job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD},
				DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.Form35}}}, &hardware.Facts{}, on(job.PortSATA),
			map[string]says{"speaks": {checks.Fine, "SATA; the old drive hangs on it by SATA"}}},
		"a card for a stick": {Model{},
			job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe},
				DriveFound: job.DriveFound{Shape: &job.Shape{Form: job.FormCard}}}, &hardware.Facts{}, on(job.PortM2),
			map[string]says{"speaks": {checks.Unknown, "NVMe"}}},
		"a disk for a hybrid": {Model{}, job.Drive{DriveLabel: job.DriveLabel{Kind: job.Hybrid}},
			&hardware.Facts{}, on(job.PortSATA), map[string]says{"speaks": {checks.Fine,
				"SATA; the old drive hangs on it by SATA"}}},
		"a disk for a disk": {Model{}, job.Drive{DriveLabel: job.DriveLabel{Kind: job.HDD}},
			&hardware.Facts{}, on(job.PortSATA), map[string]says{"speaks": {checks.Fine,
				"SATA; the old drive hangs on it by SATA"}}},
		"NVMe for a disk": {Model{}, nvme, &hardware.Facts{}, on(job.PortSATA),
			map[string]says{"speaks": {checks.Unknown, "NVMe"}}},
		"a disk for NVMe": {Model{}, ssd, &hardware.Facts{}, on(job.PortM2),
			map[string]says{"speaks": {checks.Unknown, "SATA"}}},
		"it is known to start": {Model{StartsNVMe: yn(true)}, nvme,
			&hardware.Facts{System: hardware.System{StartMode: hardware.BIOS}}, nil, map[string]says{"starts": {checks.Fine, "yes"}}},
		"NVMe after a stick": {Model{}, nvme, &hardware.Facts{}, on(job.PortUSB),
			map[string]says{"speaks": {checks.Unknown, "NVMe"}}},
	} {
		t.Run(name, func(t *testing.T) {
			got := map[string]says{}
			for _, k := range ofBest(&c.model, &c.drive, c.facts, c.old) {
				got[k.ID] = says{k.State, k.Found}
				assert.Equal(t, k.State == checks.Wrong, k.Do != "", k.ID)
			}
			for id, want := range c.want {
				assert.Equal(t, want, got[id], id)
			}
		})
	}
}
