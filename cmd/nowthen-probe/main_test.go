package main

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"testing"
	"time"

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
	require.Len(t, f.Runs, 10)
	for i, r := range f.Runs {
		assert.Equal(t, i == 9, r.Repeat, "the first test again at the end")
		assert.NotNil(t, r.Placement)
		assert.NotNil(t, r.StartTempC)
		assert.True(t, r.Simulated)
		assert.NotNil(t, r.HalfWidthPct)
	}
	assert.Contains(t, stderr, "SIMULATED")
	assert.Contains(t, stderr, "written in all")
	assert.Contains(t, stderr, "Not unattended: Cold start")
	code, again, _ := run1(t, t.Context(), "measure", "--sim", "fresh-ssd", "--out", out, "--json")
	require.Equal(t, 0, code)
	assert.Contains(t, again, `"value"`)
}

// planFile is a job file with those tests.
func planFile(t *testing.T, tests string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "plan.nowthen.json")
	require.NoError(t, os.WriteFile(path, []byte(`{"format":"nowthen-job","version":1,"job":{"number":"1","reason":""},"computers":[],"drives":[],"setups":[],"sittings":[],"runs":[],
		"tests":[`+tests+`]}`), 0o600))
	return path
}

// smallPlan is a plan that is quick on any machine.
func smallPlan(t *testing.T) string {
	t.Helper()
	return planFile(t, `{"id":"t","kind":"drive","name":"Long read","unit":"MB/s","better":"higher","wanted_runs":2,
		"params":{"pattern":"sequential","op":"read","block_bytes":1048576,"depth":8,"span_bytes":16777216,"max_seconds":0.3}}`)
}

// filePlan makes, copies and reads files and works the processor.
func filePlan(t *testing.T, files int) string {
	t.Helper()
	return planFile(t, fmt.Sprintf(`{"id":"a","kind":"file","name":"Small files","unit":"s","better":"lower","wanted_runs":1,
		"phases":[{"id":"make","name":"making"},{"id":"copy","name":"copying"}],
		"file_work":{"op":"make-and-copy","set":{"files":%d,"median_bytes":4096,"sigma":1,"max_bytes":65536,"seed":3}}},
		{"id":"b","kind":"file","name":"Folder","unit":"s","better":"lower","wanted_runs":1,"file_work":{"op":"read"}}`, files))
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

func TestFileTestsForReal(t *testing.T) {
	dir, out := onDrive(t), filepath.Join(t.TempDir(), "x.json")
	game := onDrive(t)
	require.NoError(t, os.WriteFile(filepath.Join(game, "level"), bytes.Repeat([]byte("level"), 50_000), 0o600))
	code, _, stderr := run1(t, t.Context(), "measure", "--in", dir, "--plan", filePlan(t, 40), "--read", game, "--out",
		out)
	require.Equal(t, 0, code, stderr)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	f, err := jobfile.ReadSitting(out, data)
	require.NoError(t, err)
	require.Len(t, f.Runs, 2)
	assert.InEpsilon(t, f.Runs[0].Value, f.Runs[0].Phases["make"]+f.Runs[0].Phases["copy"], 1e-9)
	assert.Equal(t, int64(40), f.Runs[0].Files)
	assert.Equal(t, int64(250_000), f.Runs[1].Bytes)
	assert.NotEmpty(t, f.Runs[1].ContentDigest)
	empty(t, dir)
	_, _, stderr = run1(t, t.Context(), "measure", "--in", dir, "--plan", filePlan(t, 4), "--out", out)
	assert.Contains(t, stderr, "--read names the folder")
}

// A probe that is killed leaves at most files that the next one recognises by
// their signature and removes.
func TestAKilledProbeIsTidiedUpAfter(t *testing.T) {
	if runtime.GOOS == "windows" {
		t.Skip("processes are killed in another way there")
	}
	program := filepath.Join(t.TempDir(), "probe")
	out, err := exec.Command("go", "build", "-o", program, ".").CombinedOutput()
	require.NoError(t, err, string(out))
	dir := onDrive(t)
	args := []string{"measure", "--in", dir, "--plan", filePlan(t, 4000), "--out", filepath.Join(t.TempDir(), "x.json")}
	killed := exec.Command(program, args...)
	require.NoError(t, killed.Start())
	require.Eventually(t, func() bool {
		made, _ := filepath.Glob(filepath.Join(dir, "*", "from", "d0002", "f*.dat"))
		return len(made) > 0
	}, time.Minute, 2*time.Millisecond)
	require.NoError(t, killed.Process.Kill())
	_ = killed.Wait()
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.NotEmpty(t, left, "it had no time to tidy up")
	stranger := filepath.Join(dir, "nowthen-drive-test-0123456789abcdef.tmp")
	require.NoError(t, os.WriteFile(stranger, []byte("unsigned"), 0o600))
	code, _, stderr := run1(t, t.Context(), "measure", "--in", dir, "--plan", smallPlan(t), "--out",
		filepath.Join(t.TempDir(), "y.json"))
	require.Equal(t, 0, code, stderr)
	left, err = os.ReadDir(dir)
	require.NoError(t, err)
	require.Len(t, left, 1)
	assert.FileExists(t, stranger, "what is not signed stays")

	// A signal ends it cleanly.
	stopped := exec.Command(program, args...)
	require.NoError(t, stopped.Start())
	require.Eventually(t, func() bool {
		made, _ := filepath.Glob(filepath.Join(dir, "*", "from", "d0001", "f*.dat"))
		return len(made) > 0
	}, time.Minute, 2*time.Millisecond)
	require.NoError(t, stopped.Process.Signal(os.Interrupt))
	_ = stopped.Wait()
	assert.Equal(t, exitStopped, stopped.ProcessState.ExitCode())
	left, err = os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, left, 1)
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
		"no folder": {[]string{"measure"}, exitFailed, "--in must be a folder"},
		"gone":      {[]string{"measure", "--in", "/no/such/folder"}, exitFailed, "no folder"},
		"memory":    {[]string{"measure", "--in", "/dev/shm"}, exitFailed, "direct I/O"},
		"no such plan": {[]string{"measure", "--sim", "fresh-ssd", "--plan", "moon"}, exitFailed,
			"neither a template"},
		"no such drive":  {[]string{"measure", "--sim", "teapot"}, exitFailed, "teapot"},
		"a foreign file": {[]string{"measure", "--sim", "fresh-ssd", "--plan", "main.go"}, exitRefused, "main.go: "},
		"a person's plan": {[]string{"measure", "--sim", "fresh-ssd", "--plan",
			planFile(t, `{"id":"t","kind":"timed","name":"Start","unit":"s","better":"lower"}`)}, exitFailed,
			"no unattended tests"},
	} {
		code, stdout, stderr := run1(t, t.Context(), tt.args...)
		assert.Equal(t, tt.code, code, name)
		assert.Contains(t, stderr, tt.says, name)
		assert.Empty(t, stdout, name)
	}
}
