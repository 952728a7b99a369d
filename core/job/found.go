package job

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"github.com/go-json-experiment/json/jsontext"

	"nowthen/core/drivetest"
)

// Or returns what was found, with what was found earlier where there is nothing now.
func (f DriveFound) Or(earlier DriveFound) DriveFound {
	f.SerialDigest, f.Shape, f.Held = cmp.Or(f.SerialDigest, earlier.SerialDigest), cmp.Or(f.Shape, earlier.Shape),
		cmp.Or(f.Held, earlier.Held)
	f.Sustained = slices.Concat(earlier.Sustained, f.Sustained)
	return f
}

// Capacity is what came back of marked blocks that were written over a drive.
type Capacity struct {
	At        time.Time `json:"at,omitzero"`
	FileBytes int64     `json:"file_bytes"` // over which was looked
	Written   int64     `json:"written_bytes"`
	Whole     bool      `json:"whole"`
	Blocks    int       `json:"blocks"`
	// Wrong is how many of them came back different, First where the first of those lies, bytes.
	Wrong int    `json:"wrong"`
	First *int64 `json:"first,omitzero"`
	// Missed is the chance that a drive with at most half of what it says would not have been found.
	Missed    float64 `json:"missed"`
	Simulated bool    `json:"simulated,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Sustained is the result of a sustained writing check.
type Sustained struct {
	ID string    `json:"id,omitzero"`
	At time.Time `json:"at,omitzero"`
	// LimitC is the drive's temperature limit, °C; nil where it is not known.
	LimitC *float64 `json:"limit_c,omitzero"`
	// Attached is how the drive was connected to the computer that wrote to it, which may differ from the one it goes into.
	Attached *Attached `json:"attached,omitzero"`
	// RoomC is the room temperature, °C, and HeatSink whether the drive had one; nil if not known.
	RoomC    *float64 `json:"room_c,omitzero"`
	HeatSink *bool    `json:"heat_sink,omitzero"`
	// Graphics reports whether the graphics worked, too, while the processor did; nil if not known.
	Graphics *bool `json:"graphics,omitzero"`
	// Parts are in the order in which they were written: the drive alone, then with the processor at work.
	Parts     []SustainedPart `json:"parts"`
	Simulated bool            `json:"simulated,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// SustainedPart is one stretch of writing without a pause.
type SustainedPart struct {
	// Loaded: the computer's processor worked on all cores in the meantime, so that the rate is not the drive's alone.
	Loaded  bool    `json:"loaded,omitzero"`
	Seconds float64 `json:"seconds"`
	Bytes   int64   `json:"bytes"`
	// MBs is the mean rate, SlowestMBs that of the slowest second; 0 where it was shorter than one.
	MBs        float64 `json:"mb_s"`
	SlowestMBs float64 `json:"slowest_mb_s,omitzero"`
	// StartC and PeakC are the drive's temperature before and at its highest, °C; nil if it does not report it.
	StartC *float64 `json:"start_c,omitzero"`
	PeakC  *float64 `json:"peak_c,omitzero"`
	// Stopped says why it ended: time, bytes, heat.
	Stopped drivetest.StopReason `json:"stopped,omitzero"`
	// Cliff is where the rate fell to a lower one; nil where it did not.
	Cliff *drivetest.Cliff `json:"cliff,omitzero"`
}

// mostSustained is how many stretches are written in one go at most.
const mostSustained = 10

// Check returns what is wrong with a result, or nil.
func (s *Sustained) Check() error {
	if n := len(s.Parts); n == 0 || n > mostSustained {
		return fmt.Errorf("%d stretches of writing are not 1 to %d", n, mostSustained)
	}
	for _, t := range []*float64{s.LimitC, s.RoomC} {
		if t != nil && !possible(*t) {
			return fmt.Errorf("%g °C is no temperature of a drive or room", *t)
		}
	}
	for _, p := range s.Parts {
		for _, v := range []float64{p.Seconds, float64(p.Bytes), p.MBs, p.SlowestMBs} {
			if !(v >= 0 && v <= maxUnsure*1e9) {
				return fmt.Errorf("%g is no figure of writing", v)
			}
		}
		for _, t := range []*float64{p.StartC, p.PeakC} {
			if t != nil && !possible(*t) {
				return fmt.Errorf("%g °C is no temperature of a drive", *t)
			}
		}
	}
	return nil
}

// possible reports whether a temperature can be one of a drive or a room, °C.
func possible(c float64) bool { return c >= -60 && c <= 200 }
