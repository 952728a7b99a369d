// Package answers parses what systems, drives and firmware return when they are queried about
// hardware: drives' logs, firmware tables, properties from Windows, reports from macOS, files
// from Linux.
//
// It is pure: the caller makes the query and passes the bytes.
package answers

import (
	"cmp"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"nowthen/core/hardware"
)

// Log is what a drive's own log says: its health, and its temperature with the limit that its maker set, °C, where they
// are in it.
type Log struct {
	Health       hardware.Health
	TemperatureC *float64
	MaxTempC     *float64
}

// kelvin is 0 °C as the logs write it: in whole kelvins.
const kelvin = 273

// Sizes of the pages, bytes.
const (
	NVMeHealthPage   = 512
	NVMeIdentifyPage = 4096
	ATAPage          = 512
)

// ErrPage means that a page is invalid: too short, of another kind, or with a wrong checksum.
var ErrPage = errors.New("that is no such page of a drive's log")

// NVMeLog reads the health page of an NVMe drive (log page 02h, NVM Express Base Specification 2.0,
// 5.16.1.3) and, where it
// is there, what the controller says of itself (Identify Controller, 5.17.2.1), which holds its limit of temperature.
func NVMeLog(page, identify []byte) (Log, error) {
	if len(page) < NVMeHealthPage {
		return Log{}, fmt.Errorf("%w: a health page has %d bytes, not %d", ErrPage, NVMeHealthPage, len(page))
	}
	// a unit is a thousand blocks of 512 bytes
	hours, units := counter(page[128:144], 1), counter(page[48:64], 512*1000)
	wear := float64(page[5])
	l := Log{Health: hardware.Health{PowerOnHours: hours, BytesWritten: units, WearPct: &wear, Warnings: []string{}},
		TemperatureC: celsius(page[1:3])}
	for bit, says := range []string{
		"its spare capacity is nearly used up", "its temperature was beyond a limit", "its reliability is degraded", "it has become read-only",
		"its memory's backup has failed", "its persistent memory can no longer be relied on",
	} {
		if page[0]&(1<<bit) != 0 {
			l.Health.Warnings = append(l.Health.Warnings, says)
		}
	}
	if n := counter(page[160:176], 1); n != nil && *n > 0 {
		l.Health.Warnings = append(l.Health.Warnings,
			fmt.Sprintf("%d times what it held could not be read or written rightly", *n))
	}
	if len(identify) >= NVMeIdentifyPage {
		if l.MaxTempC = celsius(identify[266:268]); l.MaxTempC == nil {
			l.MaxTempC = celsius(identify[268:270])
		}
	}
	return l, nil
}

// celsius converts a temperature in kelvins; nil if it is 0, which means not reported.
func celsius(b []byte) *float64 {
	k := binary.LittleEndian.Uint16(b)
	if k == 0 {
		return nil
	}
	c := float64(k) - kelvin
	return &c
}

// counter is a count of 128 bits times what one of it is worth; none where that is more than can be.
func counter(b []byte, worth uint64) *int64 {
	low, high := binary.LittleEndian.Uint64(b[:8]), binary.LittleEndian.Uint64(b[8:16])
	if high != 0 || low > math.MaxInt64/worth {
		return nil
	}
	n := int64(low * worth)
	return &n
}

// Pages of an ATA drive's statistics (log 04h, ATA Command Set 4, 9.5).
const (
	GeneralStatistics     = 1
	RotatingStatistics    = 3
	TemperatureStatistics = 5
	SolidStateStatistics  = 7
)

// ATAStatistics adds a page of an ATA drive's statistics to what is known of it. Each says what it is by a standard,
// whoever made the drive. What the drive does not keep stays as it was.
func (l *Log) ATAStatistics(page []byte, logicalBytes int64) error {
	if len(page) < ATAPage || binary.LittleEndian.Uint16(page) == 0 {
		return fmt.Errorf("%w: a page of statistics has %d bytes and its revision", ErrPage, ATAPage)
	}
	switch number := page[2]; number {
	case GeneralStatistics:
		l.Health.PowerOnHours = cmp.Or(statistic(page, 16, 4), l.Health.PowerOnHours)
		if n := statistic(page, 24, 6); n != nil && logicalBytes > 0 && *n <= math.MaxInt64/logicalBytes {
			*n *= logicalBytes
			l.Health.BytesWritten = n
		}
	case RotatingStatistics:
		l.Health.Reallocated = cmp.Or(statistic(page, 32, 4), l.Health.Reallocated)
		l.Health.Pending = cmp.Or(statistic(page, 56, 4), l.Health.Pending)
	case TemperatureStatistics:
		l.TemperatureC = cmp.Or(signed(page, 8), l.TemperatureC)
		l.MaxTempC = cmp.Or(signed(page, 88), l.MaxTempC)
	case SolidStateStatistics:
		if n := statistic(page, 8, 1); n != nil {
			wear := float64(*n)
			l.Health.WearPct = &wear
		}
	default:
		return fmt.Errorf("%w: page %d of the statistics is not read", ErrPage, number)
	}
	return nil
}

// statistic is the one at a place of its page, of so many bytes; none where the drive does not keep it, or not yet.
func statistic(page []byte, at, bytes int) *int64 {
	const kept, valid = 1 << 7, 1 << 6
	if flags := page[at+7]; flags&kept == 0 || flags&valid == 0 {
		return nil
	}
	var n int64
	for i := bytes - 1; i >= 0; i-- {
		n = n<<8 | int64(page[at+i])
	}
	return &n
}

// signed is a temperature at a place of its page, °C.
func signed(page []byte, at int) *float64 {
	n := statistic(page, at, 1)
	if n == nil {
		return nil
	}
	c := float64(int8(*n))
	return &c
}

// Attributes of an ATA drive whose meaning its makers agree on.
const (
	attributeReallocated = 5
	attributeHours       = 9
	attributeAirflow     = 190
	attributeTemperature = 194
	attributePending     = 197
)

// ATAAttributes reads an ATA drive's attributes with their limits (SMART READ DATA and SMART READ
// THRESHOLDS, ATA/ATAPI-7,
// 6.56), for drives that keep no statistics. What only some makers mean by an attribute (what was
// written, wear) is not read
// from them. An attribute that foretells a failure and has reached its limit is a warning.
func ATAAttributes(data, limits []byte) (Log, error) {
	if len(data) < ATAPage || sum(data[:ATAPage]) != 0 {
		return Log{}, fmt.Errorf("%w: attributes have %d bytes, which sum up to nothing", ErrPage, ATAPage)
	}
	limit := map[byte]byte{}
	if len(limits) >= ATAPage && sum(limits[:ATAPage]) == 0 {
		for at := 2; at < 2+30*12; at += 12 {
			limit[limits[at]] = limits[at+1]
		}
	}
	l := Log{Health: hardware.Health{Warnings: []string{}}}
	for at := 2; at < 2+30*12; at += 12 {
		a := data[at : at+12]
		raw := int64(binary.LittleEndian.Uint32(a[5:9])) // what stands above it, some makers use for other things
		switch a[0] {
		case 0:
			continue
		case attributeReallocated:
			l.Health.Reallocated = &raw
		case attributePending:
			l.Health.Pending = &raw
		case attributeHours:
			l.Health.PowerOnHours = &raw
		case attributeTemperature, attributeAirflow:
			if c := float64(a[5]); l.TemperatureC == nil || a[0] == attributeTemperature {
				l.TemperatureC = &c
			}
		}
		const foretells = 1
		if least := limit[a[0]]; a[1]&foretells != 0 && least > 0 && a[3] <= least {
			l.Health.Warnings = append(l.Health.Warnings,
				fmt.Sprintf("its attribute %d has reached its limit (%d, at least %d): it predicts failure", a[0],
					a[3], least))
		}
	}
	return l, nil
}

func sum(page []byte) (s byte) {
	for _, b := range page {
		s += b
	}
	return s
}
