package main

import (
	"encoding/json"
	"strings"
	"testing"

	"nowthen/core/hardware"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// One JSON value on standard output and nothing else there.
func value(t *testing.T, out string) map[string]any {
	t.Helper()
	d := json.NewDecoder(strings.NewReader(out))
	var v map[string]any
	require.NoError(t, d.Decode(&v))
	require.False(t, d.More(), "something stands behind it")
	return v
}

func TestFacts(t *testing.T) {
	code, out, errs := run1(t, t.Context(), "facts", "--json")
	require.Zero(t, code, errs)
	v := value(t, out)
	for _, member := range []string{"computer", "system", "drives", "volumes", "partitions", "absent"} {
		assert.Contains(t, v, member)
	}
	for _, a := range v["absent"].([]any) {
		assert.NotEmpty(t, a.(map[string]any)["what"])
		assert.NotEmpty(t, a.(map[string]any)["why"])
	}
	code, out, _ = run1(t, t.Context(), "facts")
	require.Zero(t, code)
	assert.Contains(t, out, "System")
	assert.Contains(t, out, "Not known")
	for _, line := range strings.Split(out, "\n") {
		for _, r := range line {
			assert.Less(t, r, rune(128), "no letters that a terminal may lack: %q", line)
		}
	}
}

func TestConditions(t *testing.T) {
	code, out, errs := run1(t, t.Context(), "conditions", "--in", onDrive(t), "--json")
	require.Zero(t, code, errs)
	v := value(t, out)
	assert.Contains(t, v, "causes")
	assert.Contains(t, v, "fill_pct", "the members of a sitting's conditions stand at the top")
	said := map[string]bool{}
	for _, a := range v["absent"].([]any) {
		what := a.(map[string]any)["what"].(string)
		said[what] = true
		assert.NotContains(t, v, what, "what is there is not absent")
	}
	assert.True(t, said["busy"])
	code, out, _ = run1(t, t.Context(), "conditions")
	require.Zero(t, code)
	assert.Contains(t, out, "Processor busy")
}

func TestWrongUse(t *testing.T) {
	for _, args := range [][]string{{"facts", "--nonsense"}, {"nonsense"}, {"facts", "more"}, {"conditions", "--in"}} {
		code, out, errs := run1(t, t.Context(), args...)
		assert.Equal(t, exitRefused, code, args)
		assert.Empty(t, out)
		assert.Equal(t, 1, strings.Count(errs, "\n"), "%v: %s", args, errs)
	}
	code, _, errs := run1(t, t.Context(), "conditions", "--in", "no/such/folder")
	assert.Equal(t, exitFailed, code, errs)
}

func TestHealthInOneLine(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	worn := 12.0
	for want, h := range map[string]hardware.Health{
		"sda":                           {},
		"sda, on for 0 h, 0 MB written": {PowerOnHours: n(0), BytesWritten: n(0)},
		"sda, on for 9120 h, 31.4 TB written, 3 reallocated sectors, 1 pending sectors, 12 % of its life used, it " +
			"has become read-only": {
			PowerOnHours: n(9120), BytesWritten: n(31.4e12), Reallocated: n(3), Pending: n(1), WearPct: &worn, Warnings: []string{"it has become read-only"}},
	} {
		assert.Equal(t, want, health("sda", &h))
	}
}
