// Package hardware holds the types for everything that can be known about a computer and its
// drives, as "nowthen-probe facts" prints it.
//
// It is pure and knows nothing of an operating system. What couldn't be determined is named in
// Absent, never guessed; a missing member is unknown.
package hardware

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"
	"strings"
	"time"

	"nowthen/core/job"
)

// Facts are what is known of a computer.
type Facts struct {
	Computer   Computer    `json:"computer"`
	System     System      `json:"system"`
	Drives     []Drive     `json:"drives"`
	Volumes    []Volume    `json:"volumes"`
	Partitions []Partition `json:"partitions"`
	// Starts are the last ones that the system recorded, the newest first.
	Starts []Start `json:"starts,omitempty"`
	// Driverless are devices that the system has no driver for; nil if it does not report it, empty where there are none.
	Driverless []string `json:"driverless,omitzero"`
	// Slots are those of the board for cards and drives; nil if it does not report it, empty where it tells of none.
	Slots  []Slot    `json:"slots,omitzero"`
	Absent []Absence `json:"absent"`
}

// Absence is something that could not be learnt, and why.
type Absence struct {
	What string `json:"what"`
	Why  string `json:"why"`
}

// Lacks notes that something could not be learnt.
func (f *Facts) Lacks(what, why string) { f.Absent = append(f.Absent, Absence{what, why}) }

// Computer is the machine without its drives.
type Computer struct {
	Maker       string `json:"maker,omitzero"`
	Model       string `json:"model,omitzero"`
	Firmware    string `json:"firmware,omitzero"`
	Processor   string `json:"processor,omitzero"`
	Cores       int    `json:"cores,omitzero"`
	MemoryBytes int64  `json:"memory_bytes,omitzero"`
	Graphics    string `json:"graphics,omitzero"`
}

// System is the operating system that runs.
type System struct {
	Name      string    `json:"name,omitzero"`
	Version   string    `json:"version,omitzero"`
	Build     string    `json:"build,omitzero"`
	Installed time.Time `json:"installed,omitzero"`
	// StartMode is by which the firmware started it, uefi or bios; "" where that is not known.
	StartMode string `json:"start_mode,omitzero"`
}

// Modes in which a firmware starts a system.
const (
	UEFI = "uefi"
	BIOS = "bios"
)

// Drive is a storage device. Its id is the system's name for it.
type Drive struct {
	ID            string        `json:"id"`
	Kind          job.DriveKind `json:"kind,omitzero"` // as a job's drive has it
	Maker         string        `json:"maker,omitzero"`
	Model         string        `json:"model,omitzero"`
	Firmware      string        `json:"firmware,omitzero"`
	CapacityBytes int64         `json:"capacity_bytes,omitzero"`
	LogicalBytes  int64         `json:"logical_bytes,omitzero"`
	PhysicalBytes int64         `json:"physical_bytes,omitzero"`
	RPM           int           `json:"rpm,omitzero"`
	Trim          *bool         `json:"trim,omitzero"`
	QueueDepth    int           `json:"queue_depth,omitzero"`
	WriteCache    *bool         `json:"write_cache,omitzero"`
	SerialDigest  string        `json:"serial_digest,omitzero"`
	Link          *job.Link     `json:"link,omitzero"`
	Attached      *job.Attached `json:"attached,omitzero"`
	TemperatureC  *float64      `json:"temperature_c,omitzero"`
	MaxTempC      *float64      `json:"max_temp_c,omitzero"`
	Health        *Health       `json:"health,omitzero"`
}

// Health is what a drive says of its own.
type Health struct {
	PowerOnHours *int64   `json:"power_on_hours,omitzero"`
	BytesWritten *int64   `json:"bytes_written,omitzero"`
	Reallocated  *int64   `json:"reallocated,omitzero"`
	Pending      *int64   `json:"pending,omitzero"`
	WearPct      *float64 `json:"wear_pct,omitzero"`
	Warnings     []string `json:"warnings"`
}

// Volume is a mounted file system.
type Volume struct {
	Mount         string   `json:"mount"`
	Drive         string   `json:"drive,omitzero"`
	Partition     int      `json:"partition,omitzero"`
	FileSystem    string   `json:"filesystem,omitzero"`
	SizeBytes     int64    `json:"size_bytes,omitzero"`
	UsedBytes     int64    `json:"used_bytes,omitzero"`
	System        bool     `json:"system"`
	Encrypted     *bool    `json:"encrypted,omitzero"`
	EncryptingPct *float64 `json:"encrypting_pct,omitzero"`
	// Combined are the drives of a volume that is on several; nil where it is on one.
	Combined *Combined `json:"combined,omitzero"`
}

// Combined is several drives that are one volume.
type Combined struct {
	Kind    string   `json:"kind"` // array, cache
	Members []Member `json:"members"`
}

// Kinds of combined volumes, and what a drive is in a cache.
const (
	CombinedArray = "array"
	CombinedCache = "cache"

	AsCache = "cache" // it keeps what is used most
	AsData  = "data"  // it holds everything
)

// Member is a drive of a combined volume.
type Member struct {
	Drive     string `json:"drive"`
	Partition int    `json:"partition,omitzero"`
	Role      string `json:"role,omitzero"` // of a cache: cache or data
}

// Partition is a part of a drive.
type Partition struct {
	Drive      string `json:"drive"`
	Number     int    `json:"number"`
	Type       string `json:"type,omitzero"`
	Name       string `json:"name,omitzero"`
	StartBytes int64  `json:"start_bytes"`
	SizeBytes  int64  `json:"size_bytes"`
	UsedBytes  int64  `json:"used_bytes,omitzero"`
}

// digestSalt keeps digests of serial numbers from being looked up in tables.
const digestSalt = "now-then drive 1\n"

// Digest is a one-way digest of a serial number, enough to recognise a drive; "" if there is no serial number.
func Digest(maker, model, serial string) string {
	serial = strings.TrimSpace(serial)
	if serial == "" {
		return ""
	}
	sum := sha256.Sum256([]byte(digestSalt + strings.TrimSpace(maker) + "\n" + strings.TrimSpace(model) + "\n" +
		serial))
	return hex.EncodeToString(sum[:12])
}

// AttachedBy converts a link's names to rates, with the port of a job's setup.
func AttachedBy(l *job.Link, port job.Port) *job.Attached {
	if l == nil && port == "" {
		return nil
	}
	a := &job.Attached{Port: port}
	if l != nil {
		s := job.Setup{Link: l}
		a.LinkMBs, a.CapableMBs = s.LinkMBs(), s.CapableMBs()
	}
	return a
}

// Bounds of what is taken of a computer, whoever says it.
const (
	maxText  = 500
	maxItems = 256
	maxBytes = 1 << 60
)

// Check reports what of the facts cannot be so, or nil: texts and lists without end, sizes and
// temperatures that nothing has.
func (f *Facts) Check() error {
	if n := max(len(f.Drives), len(f.Volumes), len(f.Partitions), len(f.Starts), len(f.Driverless), len(f.Slots),
		len(f.Absent)); n > maxItems {
		return fmt.Errorf("a list of %d is longer than %d", n, maxItems)
	}
	for _, s := range f.Starts {
		if !(s.Seconds > 0 && s.Seconds <= LongestStart && s.Resolution > 0 && s.Resolution <= s.Seconds) ||
			len(s.Phases) > maxItems {
			return fmt.Errorf("a recorded start of %g s, to %g s, is none", s.Seconds, s.Resolution)
		}
	}
	texts := []string{f.Computer.Maker, f.Computer.Model, f.Computer.Firmware, f.Computer.Processor,
		f.Computer.Graphics,
		f.System.Name, f.System.Version, f.System.Build, f.System.StartMode}
	texts = append(texts, f.Driverless...)
	sizes := []int64{f.Computer.MemoryBytes, int64(f.Computer.Cores)}
	for _, d := range f.Drives {
		texts = append(texts, d.ID, string(d.Kind), d.Maker, d.Model, d.Firmware, d.SerialDigest)
		sizes = append(sizes, d.CapacityBytes, d.LogicalBytes, d.PhysicalBytes, int64(d.RPM), int64(d.QueueDepth))
		if l := d.Link; l != nil {
			texts = append(texts, string(l.Kind), l.Negotiated, l.Drive, l.Port)
		}
		for _, t := range []*float64{d.TemperatureC, d.MaxTempC} {
			if t != nil && !(math.Abs(*t) <= 1000) {
				return fmt.Errorf("drive %s: %g degrees C is no temperature of a drive", d.ID, *t)
			}
		}
		if h := d.Health; h != nil {
			if len(h.Warnings) > maxItems {
				return fmt.Errorf("drive %s: %d warnings are more than %d", d.ID, len(h.Warnings), maxItems)
			}
			texts = append(texts, h.Warnings...)
		}
	}
	for _, v := range f.Volumes {
		texts = append(texts, v.Mount, v.Drive, v.FileSystem)
		sizes = append(sizes, v.SizeBytes, v.UsedBytes)
	}
	for _, p := range f.Partitions {
		texts = append(texts, p.Drive, p.Type, p.Name)
		sizes = append(sizes, p.StartBytes, p.SizeBytes, p.UsedBytes)
	}
	for _, l := range f.Slots {
		texts = append(texts, l.Name, l.Kind, l.Key)
		sizes = append(sizes, int64(l.Lanes))
	}
	for _, a := range f.Absent {
		texts = append(texts, a.What, a.Why)
	}
	for _, s := range texts {
		if len(s) > maxText {
			return fmt.Errorf("a text of %d bytes is longer than %d", len(s), maxText)
		}
	}
	for _, n := range sizes {
		if n < 0 || n > maxBytes {
			return fmt.Errorf("a size of %d bytes is none that a computer has", n)
		}
	}
	return nil
}

// Drive returns the drive with that id, or nil.
func (f *Facts) Drive(id string) *Drive {
	for i := range f.Drives {
		if f.Drives[i].ID == id {
			return &f.Drives[i]
		}
	}
	return nil
}

// SystemDrive is the drive that the system started from, or nil where that is not known.
func (f *Facts) SystemDrive() *Drive {
	for _, v := range f.Volumes {
		if v.System {
			return f.Drive(v.Drive)
		}
	}
	return nil
}

// MainDrive is the drive that the system started from, or else the only one that is no stick, of those that may be it;
// nil where that cannot be told. A system that was started from a stick or a network is on none of them.
func (f *Facts) MainDrive(may func(*Drive) bool) *Drive {
	if d := f.SystemDrive(); d != nil && may(d) {
		return d
	}
	var only *Drive
	for i := range f.Drives {
		if d := &f.Drives[i]; d.Kind != job.USBFlash && may(d) {
			if only != nil {
				return nil
			}
			only = d
		}
	}
	return only
}

// AnyDrive is for [Facts.MainDrive]: each drive may be it.
func AnyDrive(*Drive) bool { return true }

// MountOf is where a drive's largest volume is mounted, that of the system before others;
// "" where none is.
func (f *Facts) MountOf(drive string) string {
	best := Volume{SizeBytes: -1}
	for _, v := range f.Volumes {
		if v.Drive == drive && (v.System && !best.System || v.System == best.System && v.SizeBytes > best.SizeBytes) {
			best = v
		}
	}
	return best.Mount
}

// DriveOf is the drive on which a folder lies, by the longest mount that it is below; "" where
// that is not known.
func (f *Facts) DriveOf(dir string) string {
	slashed := func(s string) string { return strings.TrimRight(strings.ReplaceAll(s, `\`, "/"), "/") + "/" }
	drive, longest := "", -1
	for _, v := range f.Volumes {
		if m := slashed(v.Mount); strings.HasPrefix(slashed(dir), m) && len(m) > longest {
			drive, longest = v.Drive, len(m)
		}
	}
	return drive
}

// UsedOn is how much is in use on a drive's volumes, bytes; 0 where that is not known.
func (f *Facts) UsedOn(drive string) (bytes int64) {
	for _, v := range f.Volumes {
		if v.Drive == drive {
			bytes += v.UsedBytes
		}
	}
	return bytes
}

// emptyBelow is how much may be used on a drive that counts as empty, bytes: a file system's own.
const emptyBelow = 1 << 30

// Empty reports whether a drive holds next to nothing, as far as the system reports of all that is on
// it; one that is not known, or of
// which nothing is told, is not empty.
func (f *Facts) Empty(drive string) bool {
	if drive == "" {
		return false
	}
	seen := false
	for _, v := range f.Volumes {
		if v.Drive != drive {
			continue
		}
		if seen = true; v.System || v.UsedBytes >= emptyBelow {
			return false
		}
	}
	return seen
}

// Slot is a place on the board for a card or a drive, as the board's firmware reports.
type Slot struct {
	Name string `json:"name,omitzero"`
	Kind string `json:"kind"` // m2 or pcie
	// Key is the notch of an M.2 slot: A, B, E or M.
	Key string `json:"key,omitzero"`
	// Lanes are those of PCIe that it has; 0 where that is not told.
	Lanes int `json:"lanes,omitzero"`
	// Used reports whether something is in it; nil where that is not told.
	Used *bool `json:"used,omitzero"`
}

// Kinds of slot.
const (
	SlotM2   = "m2"
	SlotPCIe = "pcie"
)

// Start is a start of the computer as its system recorded it.
type Start struct {
	At time.Time `json:"at"`
	// Seconds is how long it took, to the resolution with which the system keeps it.
	Seconds    float64 `json:"seconds"`
	Resolution float64 `json:"resolution_s"`
	// Phases are its parts, s, as far as the system reports them apart: firmware, loader, kernel, system, desktop.
	Phases map[string]float64 `json:"phases,omitempty"`
}

// MaxStarts is how many of the last starts are told.
const MaxStarts = 20

// LongestStart is beyond what a start takes, s: the record is of something else.
const LongestStart = 3600
