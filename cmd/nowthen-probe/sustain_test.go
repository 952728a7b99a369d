package main

import (
	"os"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

// A real file on this machine's drive, with the processor at work; nothing is left.
func TestThisDriveIsWrittenToForAWhile(t *testing.T) {
	dir := onDrive(t)
	code, said, errs := run1(t, t.Context(), "sustain", "--in", dir, "--seconds", "10", "--most", "67108864", "--load",
		"--label", "0007 NEW", "--room", "21.5", "--heat-sink", "no", "--json")
	require.Zero(t, code, errs)
	var s job.Sustained
	require.NoError(t, json.Unmarshal([]byte(said), &s))
	require.NoError(t, s.Check())
	require.Len(t, s.Parts, 2)
	assert.False(t, s.Parts[0].Loaded)
	assert.True(t, s.Parts[1].Loaded)
	for _, p := range s.Parts {
		assert.Positive(t, p.MBs)
		assert.LessOrEqual(t, p.Bytes, int64(64<<20))
		assert.Positive(t, p.Bytes)
	}
	assert.False(t, s.Simulated)
	require.NotNil(t, s.RoomC)
	require.NotNil(t, s.HeatSink)
	assert.Equal(t, []any{21.5, false}, []any{*s.RoomC, *s.HeatSink})
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)

	for name, args := range map[string][]string{
		"no folder":          {"sustain"},
		"too short":          {"sustain", "--in", dir, "--seconds", "1"},
		"too little":         {"sustain", "--in", dir, "--most", "5"},
		"half a heat sink":   {"sustain", "--in", dir, "--heat-sink", "half"},
		"the old one":        {"sustain", "--in", dir, "--label", "OLD"},
		"no such folder":     {"sustain", "--in", "no such folder", "--label", "NEW"},
		"nobody says which":  {"sustain", "--in", "/proc"},
		"nothing to measure": {"sustain", "--in", "/proc", "--label", "NEW"},
	} {
		code, said, errs := run1(t, t.Context(), args...)
		assert.NotZero(t, code, name)
		assert.Empty(t, said, name)
		assert.NotEmpty(t, errs, name)
	}
}

func TestWordsOfAPart(t *testing.T) {
	c := func(v float64) *float64 { return &v }
	for want, s := range map[string]job.Sustained{
		"12 GB in 24 s, 500 MB/s, 480 MB/s in the slowest second; at most 41 °C, its limit is 70 °C.":            {LimitC: c(70), Parts: []job.SustainedPart{{Bytes: 12e9, Seconds: 24, MBs: 500, SlowestMBs: 480, PeakC: c(41)}}},
		"With the processor loaded: 12 GB in 24 s, 500 MB/s; at most 71 °C, its limit is 70 °C, which ended it.": {LimitC: c(70), Parts: []job.SustainedPart{{Loaded: true, Bytes: 12e9, Seconds: 24, MBs: 500, PeakC: c(71), Stopped: "heat"}}},
		"12 GB in 60 s, 200 MB/s; after 4 GB it fell from 450 to 90 MB/s, its write cache used up; it does not tell " +
			"its temperature.": {Parts: []job.SustainedPart{{Bytes: 12e9, Seconds: 60, MBs: 200,
			Cliff: &drivetest.Cliff{AfterBytes: 4e9, BeforeMBs: 450, AfterMBs: 90, Cause: drivetest.CacheCause}}}},
		"1 GB in 10 s, 100 MB/s; at most 30 °C.": {Parts: []job.SustainedPart{{Bytes: 1e9, Seconds: 10, MBs: 100,
			PeakC: c(30)}}},
	} {
		assert.Equal(t, want, partInWords(&s, &s.Parts[0]))
	}
}
