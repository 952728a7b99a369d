package jobfile

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func visit(t testing.TB) []byte {
	t.Helper()
	data, err := os.ReadFile("testdata/visit.nowthen.json")
	require.NoError(t, err)
	return data
}

// contains reports whether everything in want is in got too. What a
// writer adds or leaves out as empty does not matter.
func contains(t *testing.T, place string, want, got any) {
	t.Helper()
	switch w := want.(type) {
	case map[string]any:
		g, ok := got.(map[string]any)
		require.True(t, ok, "%s is no object any more", place)
		for k, v := range w {
			if v == nil || v == false {
				if _, ok := g[k]; !ok {
					continue // absent says the same here
				}
			}
			contains(t, place+"/"+k, v, g[k])
		}
	case []any:
		g, ok := got.([]any)
		require.True(t, ok && len(g) == len(w), "%s has another length", place)
		for i := range w {
			contains(t, place, w[i], g[i])
		}
	default:
		assert.Equal(t, want, got, place)
	}
}

func TestUnknownKeysSurviveAReadAndAWrite(t *testing.T) {
	j, err := Read("visit", visit(t))
	require.NoError(t, err)
	out, err := Write(j)
	require.NoError(t, err)
	var want, got any
	require.NoError(t, json.Unmarshal(visit(t), &want))
	require.NoError(t, json.Unmarshal(out, &got))
	contains(t, "", want, got)

	again, err := Read("again", out)
	require.NoError(t, err)
	twice, err := Write(again)
	require.NoError(t, err)
	assert.Equal(t, string(out), string(twice), "what was written once is written the same again")
}

func TestReadMeansWhatTheFileSays(t *testing.T) {
	j, err := Read("visit", visit(t))
	require.NoError(t, err)
	assert.Equal(t, "2026-0147", j.Head.Number)
	assert.Equal(t, "2026-11-03T09:40:00+01:00", j.Head.Opened.Format("2006-01-02T15:04:05Z07:00"))
	assert.False(t, j.Tests[0].Phases[1].Counted())
	assert.True(t, j.Tests[0].Phases[0].Counted())
	assert.Equal(t, "someone at the door", j.Run("01KB").SetAside.Reason)
	assert.Equal(t, "first start", j.Run("01KC").SetAside.Reason)
	assert.Nil(t, j.Run("01JA").SetAside)
	assert.Equal(t, int64(1<<20), j.Tests[1].Params.BlockBytes)
}

func TestRefusals(t *testing.T) {
	whole := string(visit(t))
	swap := func(old, new string) string {
		require.Contains(t, whole, old)
		return strings.Replace(whole, old, new, 1)
	}
	tests := []struct {
		name   string
		data   string
		place  string
		reason string
	}{
		{"empty", "", "line 1", "cut off"},
		{"cut off", whole[:len(whole)/2], "line ", "cut off"},
		{"not JSON", "MZ\x90\x00", "line 1, column 1", "not JSON"},
		{"two values", whole + "{}", "line ", "more after the end"},
		{"no object", "[1]", "", "not a job file"},
		{"another format", swap(`"nowthen-job"`, `"photo-album"`), "/format", "photo-album"},
		{"a later version", swap(`"version": 1`, `"version": 2`), "/version", "version 2"},
		{"an unknown kind of drive", swap(`"kind": "hdd"`, `"kind": "drum"`), "/drives/0/kind", ""},
		{"an unknown method", swap(`"method": "automatic"`, `"method": "guess"`), "/runs/1/method", ""},
		{"an unknown role", swap(`"role": "now"`, `"role": "soon"`), "/setups/1/role", ""},
		{"a value as text", swap(`"value": 108.2`, `"value": "108,2"`), "/runs/1/value", ""},
		{"a negative value", swap(`"value": 108.2`, `"value": -3`), "/runs/1/value", ""},
		{"an absurd value", swap(`"value": 108.2`, `"value": 1e9`), "/runs/1/value", "check the unit"},
		{"phases that do not add up", swap(`"value": 92.4`, `"value": 100.4`), "/runs/0/value", "add up to 92.4"},
		{"a time of day without offset", swap(`"at": "2026-11-03T10:05:00+01:00"`, `"at": "2026-11-03 10:05"`),
			"/runs/0/at", ""},
		{"a run of no test", swap(`"test": "t-read"`, `"test": "t-nap"`), "/runs/1/test", "t-nap"},
		{"a run in no sitting",
			swap(`"sitting": "s1", "at": "2026-11-03T10:09`,
				`"sitting": "s9", "at": "2026-11-03T10:09`), "/runs/1/sitting", "s9"},
		{"an id twice", swap(`"id": "01KA"`, `"id": "01JA"`), "/runs/1/id", "twice"},
		{"nothing in it", `{"format": "nowthen-job", "version": 1}`, "", ""},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			j, err := Read("the file", []byte(tt.data))
			require.Nil(t, j)
			var refused *Refusal
			require.ErrorAs(t, err, &refused)
			found := false
			for i, f := range refused.Faults {
				line := refused.Lines()[i]
				assert.True(t, strings.HasPrefix(line, "the file: "), line)
				assert.NotContains(t, line, "\n")
				found = found || strings.HasPrefix(f.Place, tt.place) && strings.Contains(f.Reason, tt.reason)
			}
			assert.True(t, found, "%v", refused.Lines())
		})
	}
}

func TestEveryFaultIsNamed(t *testing.T) {
	data := strings.Replace(string(visit(t)), `"value": 108.2`, `"value": -3`, 1)
	data = strings.Replace(data, `"test": "t-start", "sitting": "s2", "value": 36`,
		`"test": "x", "sitting": "y", "value": 36`, 1)
	_, err := Read("f", []byte(data))
	var refused *Refusal
	require.ErrorAs(t, err, &refused)
	assert.GreaterOrEqual(t, len(refused.Faults), 2, "%v", refused.Lines())
}

func TestTooLargeIsRefusedBeforeItIsRead(t *testing.T) {
	_, err := Read("f", make([]byte, MaxBytes+1))
	assert.ErrorContains(t, err, "at most 256")
}

// FuzzRead: whatever the bytes, Read either refuses with a place for every
// fault or gives a job that writes and reads back to the same file.
func FuzzRead(f *testing.F) {
	f.Add(visit(f))
	f.Add([]byte(`{"format":"nowthen-job","version":1,"job":{},"tests":[],"setups":[],"sittings":[],"runs":[]}`))
	f.Add([]byte("\xef\xbb\xbf{}"))
	f.Fuzz(func(t *testing.T, data []byte) {
		j, err := Read("f", data)
		if err != nil {
			var refused *Refusal
			require.ErrorAs(t, err, &refused)
			require.NotEmpty(t, refused.Faults)
			require.Nil(t, j)
			return
		}
		out, err := Write(j)
		require.NoError(t, err)
		again, err := Read("again", out)
		require.NoError(t, err, "%s", out)
		twice, err := Write(again)
		require.NoError(t, err)
		require.Equal(t, string(out), string(twice))
	})
}
