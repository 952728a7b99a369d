package main

import (
	"bytes"
	"context"
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/jobfile"
)

func run1(t *testing.T, ctx context.Context, args ...string) (code int, stdout, stderr string) {
	t.Helper()
	var out, errs bytes.Buffer
	code = run(ctx, args, &out, &errs)
	return code, out.String(), errs.String()
}

func TestMeasureASimulatedDrive(t *testing.T) {
	out := filepath.Join(t.TempDir(), "x.nowthen-sitting.json")
	code, stdout, stderr := run1(t, t.Context(), "measure", "--sim", "fresh-ssd", "--out", out, "--json")
	require.Equal(t, 0, code, stderr)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(t, string(data), stdout)
	f, err := jobfile.ReadSitting(out, data)
	require.NoError(t, err)
	assert.Len(t, f.Runs, 9)
	for _, r := range f.Runs {
		assert.True(t, r.Simulated)
		assert.NotNil(t, r.HalfWidthPct)
	}
	assert.Contains(t, stderr, "SIMULATED")
	assert.Contains(t, stderr, "written in all")
	assert.Contains(t, stderr, "Not run by this program: Cold start")
	code, again, _ := run1(t, t.Context(), "measure", "--sim", "fresh-ssd", "--out", out, "--json")
	require.Equal(t, 0, code)
	assert.Contains(t, again, `"value"`)
}

// smallPlan is a job file whose plan is quick on any machine.
func smallPlan(t *testing.T) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "plan.nowthen.json")
	require.NoError(t, os.WriteFile(path, []byte(`{"format":"nowthen-job","version":1,"job":{"number":"1","reason":""},"computers":[],"drives":[],"setups":[],"sittings":[],"runs":[],
		"tests":[{"id":"t","kind":"drive","name":"Long read","unit":"MB/s","better":"higher","wanted_runs":2,
		"params":{"pattern":"sequential","op":"read","block_bytes":1048576,"depth":8,"span_bytes":16777216,"max_seconds":0.3}}]}`), 0o600))
	return path
}

func onDrive(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp(".", "measured-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return dir
}

func empty(t *testing.T, dir string) {
	t.Helper()
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestMeasureForReal(t *testing.T) {
	dir, out := onDrive(t), filepath.Join(t.TempDir(), "x.json")
	code, stdout, stderr := run1(t, t.Context(), "measure", "--in", dir, "--plan", smallPlan(t), "--out", out)
	require.Equal(t, 0, code, stderr)
	assert.Empty(t, stdout)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	f, err := jobfile.ReadSitting(out, data)
	require.NoError(t, err)
	require.Len(t, f.Runs, 2)
	assert.False(t, f.Runs[0].Simulated)
	assert.Positive(t, f.Computer.MemoryBytes)
	assert.NotNil(t, f.Conditions.FillPct)
	empty(t, dir)
}

func TestStoppedKeepsWhatWasFinished(t *testing.T) {
	dir, out := onDrive(t), filepath.Join(t.TempDir(), "x.json")
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	said := &stopAt{words: "run 2 of 2", stop: cancel}
	code := run(ctx, []string{"measure", "--in", dir, "--plan", smallPlan(t), "--out", out}, io.Discard, said)
	require.Equal(t, exitStopped, code, said.String())
	assert.Contains(t, said.String(), "Stopped.")
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	f, err := jobfile.ReadSitting(out, data)
	require.NoError(t, err)
	assert.Len(t, f.Runs, 1, "the first run had been finished")
	empty(t, dir)
}

// stopAt stops the program as soon as it says certain words.
type stopAt struct {
	bytes.Buffer
	words string
	stop  func()
}

func (s *stopAt) Write(p []byte) (int, error) {
	if bytes.Contains(p, []byte(s.words)) {
		s.stop()
	}
	return s.Buffer.Write(p)
}

func TestRefusals(t *testing.T) {
	for name, tt := range map[string]struct {
		args []string
		code int
		says string
	}{
		"no folder":        {[]string{"measure"}, exitFailed, "--in names no folder"},
		"gone":             {[]string{"measure", "--in", "/no/such/folder"}, exitFailed, "no folder"},
		"memory":           {[]string{"measure", "--in", "/dev/shm"}, exitFailed, "direct I/O"},
		"no such plan":     {[]string{"measure", "--sim", "fresh-ssd", "--plan", "moon"}, exitFailed, "neither a template"},
		"no such drive":    {[]string{"measure", "--sim", "teapot"}, exitFailed, "teapot"},
		"a foreign file":   {[]string{"measure", "--sim", "fresh-ssd", "--plan", "main.go"}, exitRefused, "main.go: "},
		"nothing to write": {[]string{"measure", "--sim", "fresh-ssd", "--plan", "failing"}, exitFailed, "no drive test"},
	} {
		code, stdout, stderr := run1(t, t.Context(), tt.args...)
		assert.Equal(t, tt.code, code, name)
		assert.Contains(t, stderr, tt.says, name)
		assert.Empty(t, stdout, name)
	}
}
