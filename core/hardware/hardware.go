// Package hardware holds what can be known of a computer and its drives: the types of
// what "nowthen-probe facts" prints.
//
// It is pure and knows nothing of an operating system. What could not be learnt is named in
// Absent, never guessed; a member that is not there was not told.
package hardware

import (
	"crypto/sha256"
	"encoding/hex"
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
	Absent     []Absence   `json:"absent"`
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
}

// Drive is a storage device. Its id is the system's name for it.
type Drive struct {
	ID            string        `json:"id"`
	Kind          string        `json:"kind,omitzero"` // as a job's drive has it
	Maker         string        `json:"maker,omitzero"`
	Model         string        `json:"model,omitzero"`
	Firmware      string        `json:"firmware,omitzero"`
	CapacityBytes int64         `json:"capacity_bytes,omitzero"`
	LogicalBytes  int64         `json:"logical_bytes,omitzero"`
	PhysicalBytes int64         `json:"physical_bytes,omitzero"`
	RPM           int           `json:"rpm,omitzero"`
	Trim          *bool         `json:"trim,omitzero"`
	QueueDepth    int           `json:"queue_depth,omitzero"`
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

// digestSalt keeps digests of serial numbers from being looked up in those of others.
const digestSalt = "now-then drive 1\n"

// Digest is enough of a serial number to tell whether two drives are the same, and nothing
// from which it could be read; "" where there is none.
func Digest(maker, model, serial string) string {
	serial = strings.TrimSpace(serial)
	if serial == "" {
		return ""
	}
	sum := sha256.Sum256([]byte(digestSalt + strings.TrimSpace(maker) + "\n" + strings.TrimSpace(model) + "\n" + serial))
	return hex.EncodeToString(sum[:12])
}

// AttachedBy says in rates what a link says by name, with the port of a job's setup.
func AttachedBy(l *job.Link, port string) *job.Attached {
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
