package jobfile

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const sitting = `{"format": "nowthen-sitting", "version": 1, "probe": {"engine": "2", "built": "today"}, "computer": {"maker": "Larkfield"},
 "conditions": {"power": "mains", "room_c": 21}, "tests": [{"id": "t", "kind": "drive", "name": "Long read", "unit": "MB/s", "better": "higher",
 "params": {"pattern": "sequential", "op": "read", "block_bytes": 1048576, "depth": 8, "span_bytes": 1073741824}}],
 "runs": [{"id": "r1", "test": "t", "sitting": "s1", "value": 500, "method": "automatic"}], "colour": "red"}`

func TestSittingFileSurvivesAReadAndAWrite(t *testing.T) {
	f, err := ReadSitting("f", []byte(sitting))
	require.NoError(t, err)
	assert.Equal(t, "Larkfield", f.Computer.Maker)
	assert.Equal(t, int64(1<<20), f.Tests[0].Params.BlockBytes)
	out, err := WriteSitting(f)
	require.NoError(t, err)
	for _, unknown := range []string{`"colour": "red"`, `"built": "today"`, `"room_c": 21`} {
		assert.Contains(t, string(out), unknown)
	}
	again, err := ReadSitting("again", out)
	require.NoError(t, err)
	twice, err := WriteSitting(again)
	require.NoError(t, err)
	assert.Equal(t, string(out), string(twice))
}

func TestSittingFileRefusals(t *testing.T) {
	swap := func(old, new string) string { return strings.Replace(sitting, old, new, 1) }
	for name, tt := range map[string]struct{ data, says string }{
		"cut off":           {sitting[:200], "cut off"},
		"a job file":        {swap("nowthen-sitting", "nowthen-job"), "not a sitting file"},
		"a later version":   {swap(`"version": 1`, `"version": 9`), "version"},
		"a run of no test":  {swap(`"test": "t"`, `"test": "x"`), `no test has the id "x"`},
		"a negative value":  {swap(`"value": 500`, `"value": -5`), "/runs/0/value"},
		"an unknown method": {swap(`"automatic"`, `"guess"`), "/runs/0/method"},
		"unknown power":     {swap(`"mains"`, `"steam"`), "/conditions/power"},
	} {
		_, err := ReadSitting("f", []byte(tt.data))
		assert.ErrorContains(t, err, tt.says, name)
	}
}

// FuzzReadSitting: whatever the bytes, a sitting file is refused or survives.
func FuzzReadSitting(f *testing.F) {
	f.Add([]byte(sitting))
	f.Fuzz(func(t *testing.T, data []byte) {
		s, err := ReadSitting("f", data)
		if err != nil {
			var refused *Refusal
			require.ErrorAs(t, err, &refused)
			return
		}
		out, err := WriteSitting(s)
		require.NoError(t, err)
		_, err = ReadSitting("again", out)
		require.NoError(t, err, "%s", out)
	})
}
