package main

import (
	"encoding/json"
	"io"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/capacity"
	"nowthen/core/hardware"
)

// A real file on this machine's drive: all of it comes back, and nothing is left.
func TestWhatThisDriveHolds(t *testing.T) {
	for name, args := range map[string][]string{
		"whole":  {"--whole", "--most", "16777216"},
		"sample": {"--sample", "4194304", "--most", "33554432"},
	} {
		t.Run(name, func(t *testing.T) {
			dir := onDrive(t)
			code, said, errs := run1(t, t.Context(),
				append([]string{"capacity", "--in", dir, "--json", "--label", "0007 NEW"}, args...)...)
			require.Zero(t, code, errs)
			var r capacity.Result
			require.NoError(t, json.Unmarshal([]byte(said), &r))
			assert.True(t, r.Holds(), said)
			assert.Equal(t, name == "whole", r.Whole)
			assert.InDelta(t, 1, r.Missed, 1e-12, "so little says nothing of the drive")
			assert.Equal(t, r.Written, int64(r.Blocks)*capacity.BlockBytes)
			left, err := os.ReadDir(dir)
			require.NoError(t, err)
			assert.Empty(t, left)
		})
	}
	code, said, _ := run1(t, t.Context(), "capacity", "--in", onDrive(t), "--whole", "--most", "1048576", "--label",
		"new")
	assert.Zero(t, code)
	assert.Contains(t, said, "All 1 MB, over 1 MB")
	assert.Contains(t, said, "says nothing about the rest")
	for _, wrong := range [][]string{{"capacity"}, {"capacity", "--in", onDrive(t), "--sample", "1"},
		{"capacity", "--in", onDrive(t), "--most", "-1"}, {"capacity", "--in", "no such folder", "--label", "NEW"},
		{"capacity", "--in", onDrive(t), "--label", "0007 OLD"}, {"capacity", "--in", onDrive(t), "--label", "7"}} {
		code, _, errs := run1(t, t.Context(), wrong...)
		assert.NotZero(t, code, "%v", wrong)
		assert.NotEmpty(t, errs)
	}
}

func TestWordsOfWhatADriveHolds(t *testing.T) {
	at := func(n int64) *int64 { return &n }
	for want, r := range map[string]capacity.Result{
		"All 960 GB came back as they were written.": {Written: 960e9, Whole: true},
		"All 4.29 GB, spread over 900 GB, came back as they were written. A drive with half its stated " +
			"capacity or less would be missed with a chance of 1.3 %.": {Written: 4.29e9,
			FileBytes: 900e9, Missed: 0.0131},
		"All 4.29 GB, spread over 900 GB, came back as they were written. A drive with half its stated " +
			"capacity or less would be missed with a chance of 0.01 %.": {Written: 4.29e9,
			FileBytes: 900e9, Missed: 1e-12},
		"7 of 900 blocks came back different, the first at 64 GB: the drive's true capacity is smaller " +
			"than stated. Don't use it. Send it back. Blocks that lie 64 GB apart are one and the same.": {Blocks: 900, Missing: 3,
			Overlaid: 4, First: at(64e9), Apart: at(64e9)},
		"All 4.29 GB, over 4.29 GB of a drive of 64 GB, came back as they were written. That says nothing about " +
			"the rest of the drive. Empty it first, then check all of it.": {Written: 4.29e9,
			FileBytes: 4.29e9, Of: 64e9, Whole: true, Missed: 1},
	} {
		assert.Equal(t, want, held(&r))
	}
}

// The code on the label is asked for unless the drive is known to be empty, and that of the old drive ends it.
func TestWhichDriveIsWrittenOn(t *testing.T) {
	on := func(volumes ...hardware.Volume) *hardware.Facts { return &hardware.Facts{Volumes: volumes} }
	const dir = "/new/x"
	for name, c := range map[string]struct {
		facts  *hardware.Facts
		label  string
		typed  string
		refuse string // "": it goes on
	}{
		"an empty one": {on(hardware.Volume{Mount: "/new", Drive: "b", UsedBytes: 30 << 20}), "", "",
			""},
		"one with files": {on(hardware.Volume{Mount: "/new", Drive: "b", UsedBytes: 3 << 30}), "", "",
			"--label"},
		"the system's": {on(hardware.Volume{Mount: "/new", Drive: "b", System: true}), "", "",
			"--label"},
		"files on another of its volumes": {on(hardware.Volume{Mount: "/new", Drive: "b"},
			hardware.Volume{Mount: "/old", Drive: "b", UsedBytes: 3 << 30}), "", "", "--label"},
		"nobody tells":                {on(), "", "", "--label"},
		"the new one's code is typed": {on(), "", "0007 new\n", ""},
		"without its number":          {on(), "", "NEW\n", ""},
		"the old one's code is typed": {on(), "", "0007 OLD\n", "old drive"},
		"something else is typed":     {on(), "", "yes\n", "no code"},
		"the old one's code is given": {on(hardware.Volume{Mount: "/new", Drive: "b"}), "0007-OLD", "",
			"old drive"},
		"the new one's code is given": {on(), "0007 NEW", "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			err := rightDrive(c.facts, dir, c.label, strings.NewReader(c.typed), io.Discard)
			if c.refuse == "" {
				assert.NoError(t, err)
			} else {
				assert.ErrorContains(t, err, c.refuse)
			}
		})
	}
}
