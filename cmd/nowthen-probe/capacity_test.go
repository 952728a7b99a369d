package main

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/capacity"
)

// A real file on this machine's drive: all of it comes back, and nothing is left.
func TestWhatThisDriveHolds(t *testing.T) {
	for name, args := range map[string][]string{
		"whole":  {"--whole", "--most", "16777216"},
		"sample": {"--sample", "4194304", "--most", "33554432"},
	} {
		t.Run(name, func(t *testing.T) {
			dir := onDrive(t)
			code, said, errs := run1(t, t.Context(), append([]string{"capacity", "--in", dir, "--json"}, args...)...)
			require.Zero(t, code, errs)
			var r capacity.Result
			require.NoError(t, json.Unmarshal([]byte(said), &r))
			assert.True(t, r.Holds(), said)
			assert.Equal(t, name == "whole", r.Whole)
			assert.Equal(t, name == "whole", r.Missed == 0)
			assert.Equal(t, r.Written, int64(r.Blocks)*capacity.BlockBytes)
			left, err := os.ReadDir(dir)
			require.NoError(t, err)
			assert.Empty(t, left)
		})
	}
	code, said, _ := run1(t, t.Context(), "capacity", "--in", onDrive(t), "--whole", "--most", "1048576")
	assert.Zero(t, code)
	assert.Equal(t, "All 1 MB came back as they were written.\n", said)
	for _, wrong := range [][]string{{"capacity"}, {"capacity", "--in", onDrive(t), "--sample", "1"}, {"capacity", "--in", onDrive(t), "--most", "-1"}, {"capacity", "--in", "no such folder"}} {
		code, _, errs := run1(t, t.Context(), wrong...)
		assert.NotZero(t, code, "%v", wrong)
		assert.NotEmpty(t, errs)
	}
}

func TestWordsOfWhatADriveHolds(t *testing.T) {
	at := func(n int64) *int64 { return &n }
	for want, r := range map[string]capacity.Result{
		"All 960 GB came back as they were written.": {Written: 960e9, Whole: true},
		"All 4.29 GB, spread over 900 GB, came back as they were written. A drive with half of what it says, or less, would be missed with a chance of 1.3 %.":                                  {Written: 4.29e9, FileBytes: 900e9, Missed: 0.0131},
		"All 4.29 GB, spread over 900 GB, came back as they were written. A drive with half of what it says, or less, would be missed with a chance of 0.01 %.":                                 {Written: 4.29e9, FileBytes: 900e9, Missed: 1e-12},
		"7 of 900 blocks came back otherwise, the first at 64 GB: the drive does not hold what it says. Put nothing on it, and send it back. Blocks that lie 64 GB apart are one and the same.": {Blocks: 900, Lost: 3, Overlaid: 4, First: at(64e9), Apart: at(64e9)},
	} {
		assert.Equal(t, want, held(&r))
	}
}
