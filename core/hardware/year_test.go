package hardware_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"nowthen/core/hardware"
)

func TestYearAhead(t *testing.T) {
	now := time.Date(2026, 11, 27, 9, 0, 0, 0, time.UTC)
	of := func(age time.Duration, volumes ...hardware.Volume) *hardware.Facts {
		return &hardware.Facts{System: hardware.System{Installed: now.Add(-age)}, Volumes: volumes}
	}
	const year = 31_556_952 * time.Second
	system, data, stick := hardware.Volume{Drive: "sda", System: true, UsedBytes: 200e9},
		hardware.Volume{Drive: "sda", UsedBytes: 100e9}, hardware.Volume{Drive: "sdb", UsedBytes: 7e9}
	for _, c := range []struct {
		name  string
		facts *hardware.Facts
		bytes int64
		ok    bool
	}{
		{"in four years 300 GB: 75 GB more in the fifth", of(4*year, system, data, stick), 375e9, true},
		{"half a year is enough", of(180*24*time.Hour, system), 605825000000, true},
		{"a day less is not", of(179*24*time.Hour, system), 0, false},
		{"nobody knows since when", &hardware.Facts{Volumes: []hardware.Volume{system}}, 0, false},
		{"a drive without the system", of(4*year, data), 0, false},
		{"nothing is known to be used", of(4*year, hardware.Volume{Drive: "sda", System: true}), 0, false},
		{"installed tomorrow, by a clock that is wrong", of(-24*time.Hour, system), 0, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			a, ok := c.facts.YearAhead("sda", now)
			assert.Equal(t, c.ok, ok)
			assert.InDelta(t, c.bytes, a.Bytes, 1e6)
		})
	}
}
