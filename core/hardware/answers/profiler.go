package answers

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"github.com/go-json-experiment/json"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// ProfilerTypes are the parts of macOS' profiler that [Profiled] reads.
var ProfilerTypes = []string{"SPHardwareDataType", "SPSoftwareDataType", "SPDisplaysDataType", "SPNVMeDataType",
	"SPSerialATADataType", "SPStorageDataType"}

// profile is what macOS' profiler writes, as far as it is read.
type profile struct {
	Hardware []struct {
		Name     string `json:"machine_name"`
		Model    string `json:"machine_model"`
		CPU      string `json:"cpu_type"`
		Chip     string `json:"chip_type"`
		Memory   string `json:"physical_memory"`
		Firmware string `json:"boot_rom_version"`
	} `json:"SPHardwareDataType"`
	Software []struct {
		Version string `json:"os_version"`
	} `json:"SPSoftwareDataType"`
	Displays []struct {
		Model string `json:"sppci_model"`
	} `json:"SPDisplaysDataType"`
	NVMe []struct {
		Items []profiledDrive `json:"_items"`
	} `json:"SPNVMeDataType"`
	SATA []struct {
		Port       string          `json:"spsata_portspeed"`
		Negotiated string          `json:"spsata_negotiatedlinkspeed"`
		Items      []profiledDrive `json:"_items"`
	} `json:"SPSerialATADataType"`
	Storage []struct {
		BSD        string `json:"bsd_name"`
		FileSystem string `json:"file_system"`
		Free       int64  `json:"free_space_in_bytes"`
		Size       int64  `json:"size_in_bytes"`
		Mount      string `json:"mount_point"`
		Drive      struct {
			Name string `json:"device_name"`
		} `json:"physical_drive"`
	} `json:"SPStorageDataType"`
}

type profiledDrive struct {
	Name      string `json:"_name"`
	BSD       string `json:"bsd_name"`
	Model     string `json:"device_model"`
	Revision  string `json:"device_revision"`
	Serial    string `json:"device_serial"`
	Size      int64  `json:"size_in_bytes"`
	SMART     string `json:"smart_status"`
	TrimNVMe  string `json:"spnvme_trim_support"`
	LinkSpeed string `json:"spnvme_linkspeed"`
	LinkWidth string `json:"spnvme_linkwidth"`
	Medium    string `json:"spsata_medium_type"`
	Turns     string `json:"spsata_rotational_rate"`
	TrimSATA  string `json:"spsata_trim_support"`
	Depth     string `json:"spsata_ncq_depth"`
}

var (
	versionAndBuild = regexp.MustCompile(`^(.*?) ([0-9.]+) \(([0-9A-Za-z]+)\)$`)
	inGigabytes     = regexp.MustCompile(`^(\d+) GB$`)
	gigatransfers   = map[string]uint32{"2.5 GT/s": 1, "5.0 GT/s": 2, "5 GT/s": 2, "8.0 GT/s": 3, "8 GT/s": 3,
		"16.0 GT/s": 4, "16 GT/s": 4, "32.0 GT/s": 5}
	sataRates = map[string]string{"1.5 Gigabit": "1.5 Gb/s", "3 Gigabit": "3 Gb/s", "6 Gigabit": "6 Gb/s"}
)

// Profiled reads what macOS' profiler writes as JSON. Where partitions begin it does not say, nor
// temperatures, nor more of
// a drive's health than whether it predicts failure.
func Profiled(text []byte) (*hardware.Facts, error) {
	var p profile
	if err := json.Unmarshal(text, &p, jsontext.AllowDuplicateNames(true),
		jsontext.AllowInvalidUTF8(true)); err != nil {
		return nil, fmt.Errorf("the profiler's answer: %w", err)
	}
	f := &hardware.Facts{Drives: []hardware.Drive{}, Volumes: []hardware.Volume{}, Partitions: []hardware.Partition{}, Absent: []hardware.Absence{}}
	if len(p.Hardware) > 0 {
		h := p.Hardware[0]
		f.Computer = hardware.Computer{Model: hardware.Given(strings.TrimSpace(h.Name + " " + h.Model)), Firmware: hardware.Given(h.Firmware),
			Processor: h.Chip}
		if h.Chip == "" {
			f.Computer.Processor = h.CPU
		}
		if m := inGigabytes.FindStringSubmatch(h.Memory); m != nil {
			n, _ := strconv.ParseInt(m[1], 10, 32)
			f.Computer.MemoryBytes = n << 30
		}
	}
	if len(p.Software) > 0 {
		if m := versionAndBuild.FindStringSubmatch(p.Software[0].Version); m != nil {
			f.System = hardware.System{Name: m[1], Version: m[2], Build: m[3]}
		} else {
			f.System = hardware.System{Name: p.Software[0].Version}
		}
	}
	var graphics []string
	for _, d := range p.Displays {
		if d.Model != "" && !slices.Contains(graphics, d.Model) {
			graphics = append(graphics, d.Model)
		}
	}
	f.Computer.Graphics = strings.Join(graphics, ", ")
	for _, c := range p.NVMe {
		for _, d := range c.Items {
			link := &job.Link{Kind: "pcie"}
			if lanes, err := strconv.ParseUint(strings.TrimPrefix(d.LinkWidth, "x"), 10, 8); err == nil {
				link.Negotiated = PCIeLink(gigatransfers[d.LinkSpeed], uint32(lanes))
			}
			profiled(f, d, job.NVMe, d.TrimNVMe, link, job.PortPCIe)
		}
	}
	for _, c := range p.SATA {
		for _, d := range c.Items {
			kind := map[string]job.DriveKind{"Rotational": job.HDD, "Solid State": job.SataSSD}[d.Medium]
			profiled(f, d, kind, d.TrimSATA,
				&job.Link{Kind: "sata", Negotiated: sataRates[c.Negotiated], Port: sataRates[c.Port]}, job.PortSATA)
		}
	}
	for _, s := range p.Storage {
		if s.Mount == "" || s.Size <= 0 {
			continue
		}
		v := hardware.Volume{Mount: s.Mount, FileSystem: strings.ToLower(s.FileSystem), SizeBytes: s.Size,
			UsedBytes: max(0, s.Size-s.Free), System: s.Mount == "/"}
		// A volume names its drive as the drive is called; of two that are called alike it does not say which.
		var on []string
		for _, d := range f.Drives {
			if name := strings.TrimSpace(s.Drive.Name); name != "" && name == d.Model {
				on = append(on, d.ID)
			}
		}
		if len(on) == 1 {
			v.Drive = on[0]
		} else {
			f.Lacks("drive of "+v.Mount, "the system does not say on which it lies")
		}
		f.Volumes = append(f.Volumes, v)
	}
	f.Lacks("maker", "the system does not name it")
	f.Lacks("partitions", "the system's profiler does not say where they begin")
	if len(f.Drives) == 0 {
		f.Lacks("drives", "the system's profiler shows none at a port of its own")
	}
	return f, nil
}

// profiled adds a drive.
func profiled(f *hardware.Facts, p profiledDrive, kind job.DriveKind, trims string, link *job.Link, port job.Port) {
	if p.BSD == "" {
		return // a drive for discs without one
	}
	d := hardware.Drive{ID: p.BSD, Kind: kind, Model: strings.TrimSpace(p.Model), Firmware: strings.TrimSpace(p.Revision),
		CapacityBytes: max(0, p.Size), SerialDigest: hardware.Digest("", p.Model, p.Serial)}
	if d.Model == "" {
		d.Model = strings.TrimSpace(p.Name)
	}
	switch trims {
	case "Yes", "No":
		yes := trims == "Yes"
		d.Trim = &yes
	}
	if n, err := strconv.Atoi(p.Turns); err == nil && n > 0 {
		d.RPM = n
	}
	if n, err := strconv.Atoi(p.Depth); err == nil && n > 0 {
		d.QueueDepth = n
	}
	if link.Negotiated != "" {
		d.Link = link
	} else {
		f.Lacks("link of "+d.ID, "the system does not tell how fast it is")
	}
	d.Attached = hardware.AttachedBy(d.Link, port)
	switch p.SMART {
	case "Verified":
		d.Health = &hardware.Health{Warnings: []string{}}
	case "Failing":
		d.Health = &hardware.Health{Warnings: []string{"the system says that it predicts failure"}}
	default:
		f.Lacks("health of "+d.ID, "the system does not tell")
	}
	if kind == "" {
		f.Lacks("kind of "+d.ID, "the system does not say whether it turns")
	}
	if d.SerialDigest == "" {
		f.Lacks("serial number of "+d.ID, "the drive or its bridge does not tell")
	}
	f.Lacks("temperature of "+d.ID, "the system does not tell")
	f.Drives = append(f.Drives, d)
}

var charge = regexp.MustCompile(`InternalBattery.*?(\d{1,3})%`)

// PowerManaged reads what macOS says of its power (pmset -g batt, and -g for how it is used): where
// it comes from, how it is
// used, and how full the battery is, %, nil where there is none.
func PowerManaged(battery, settings string) (source job.Power, mode job.PowerMode, batteryPct *float64) {
	switch {
	case strings.Contains(battery, "'AC Power'"):
		source = job.Mains
	case strings.Contains(battery, "'Battery Power'"):
		source = job.Battery
	}
	if m := charge.FindStringSubmatch(battery); m != nil {
		if n, err := strconv.ParseFloat(m[1], 64); err == nil && n <= 100 {
			batteryPct = &n
		}
	}
	for line := range strings.Lines(settings) {
		if name, value, _ := strings.Cut(strings.TrimSpace(line), " "); name == "lowpowermode" {
			mode = job.NormalMode
			if strings.TrimSpace(value) == "1" {
				mode = job.SavingMode
			}
		}
	}
	return source, mode, batteryPct
}

// VaultStatus reads what macOS says of the encryption of its own volume (fdesetup status); nil if it does not report it.
func VaultStatus(text string) (encrypted, encrypting *bool) {
	yes, no := true, false
	switch {
	case strings.Contains(text, "Encryption in progress"):
		return &yes, &yes
	case strings.Contains(text, "Decryption in progress"):
		return nil, &yes
	case strings.Contains(text, "is On"):
		return &yes, &no
	case strings.Contains(text, "is Off"):
		return &no, &no
	}
	return nil, nil
}
