package main

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/access"
	"nowthen/bench"
)

const visit = "../../core/jobfile/testdata/visit.nowthen.json"

func nowthen(t *testing.T, args ...string) (code int, stdout, stderr string) {
	t.Helper()
	var out, err bytes.Buffer
	code = run(t.Context(), args, &out, &err)
	return code, out.String(), err.String()
}

func TestCompareJSONKeepsTheContract(t *testing.T) {
	code, out, errs := nowthen(t, "compare", visit, "--json")
	require.Equal(t, 0, code, errs)
	assert.Empty(t, errs)
	var ledger map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &ledger))
	for _, key := range []string{"format", "version", "then", "with", "lines", "groups", "savings", "findings"} {
		assert.Contains(t, ledger, key)
	}
	assert.Equal(t, "nowthen-ledger", ledger["format"])
	lines := ledger["lines"].([]any)
	require.Len(t, lines, 3)
	keys := []string{"test", "verdict", "indicative", "felt", "factor", "low", "high", "then", "with", "saves", "drive_share", "floor", "findings"}
	for _, l := range lines {
		var have []string
		for k := range l.(map[string]any) {
			have = append(have, k)
		}
		assert.ElementsMatch(t, keys, have)
	}
	read := lines[1].(map[string]any)
	assert.Equal(t, "not-measured", read["verdict"])
	assert.Nil(t, read["factor"], "what does not exist is null")
	assert.Nil(t, read["with"])
	assert.Equal(t, map[string]any{"n": 1.0, "centre": 108.2, "min": 108.2, "max": 108.2}, read["then"])
	groups := ledger["groups"].(map[string]any)
	assert.Contains(t, groups, "drive")
	assert.Contains(t, groups, "waiting")
	for _, key := range []string{"seconds_per_week", "low", "high", "hours_per_year", "left_out"} {
		assert.Contains(t, ledger["savings"], key)
	}
}

func TestCompareChoosesSetups(t *testing.T) {
	code, out, _ := nowthen(t, "compare", visit, "--then", "now", "--with", "then", "--json")
	require.Equal(t, 0, code)
	assert.Contains(t, out, `"then": "now"`)
	code, out, errs := nowthen(t, "compare", visit, "--with", "moon")
	assert.Equal(t, 2, code)
	assert.Empty(t, out)
	assert.Contains(t, errs, `no setup has the id "moon"`)
}

func TestCompareAsText(t *testing.T) {
	data, err := os.ReadFile(visit)
	require.NoError(t, err)
	// Without its set-aside runs the start has one run on each side.
	path := filepath.Join(t.TempDir(), "x.nowthen.json")
	require.NoError(t, os.WriteFile(path, bytes.Replace(data, []byte(`"someone at the door"`), []byte("null"), 1), 0o600))
	code, out, errs := nowthen(t, "compare", path)
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, "Cold start to desktop")
	assert.Contains(t, out, "2.6× as fast (single run)")
	assert.Contains(t, out, "61 % less waiting, saves 56 s each time")
	assert.Contains(t, out, "not measured on the second side")
}

func TestRefusedFiles(t *testing.T) {
	dir := t.TempDir()
	data, err := os.ReadFile(visit)
	require.NoError(t, err)
	half, wrong := filepath.Join(dir, "half.json"), filepath.Join(dir, "wrong.json")
	require.NoError(t, os.WriteFile(half, data[:900], 0o600))
	bad := strings.Replace(string(data), `"value": 108.2`, `"value": -1`, 1)
	require.NoError(t, os.WriteFile(wrong, []byte(strings.Replace(bad, `"setup": "now"`, `"setup": "moon"`, 1)), 0o600))
	for path, faults := range map[string]int{half: 1, wrong: 2, filepath.Join(dir, "gone"): 1, dir: 1} {
		code, out, errs := nowthen(t, "compare", path, "--json")
		assert.Equal(t, 2, code, path)
		assert.Empty(t, out, "nothing on standard output")
		lines := strings.Split(strings.TrimSpace(errs), "\n")
		assert.GreaterOrEqual(t, len(lines), faults, errs)
		for _, l := range lines {
			assert.True(t, strings.HasPrefix(l, path+": "), l)
		}
	}
}

func TestExportAndImport(t *testing.T) {
	from, to := t.TempDir(), t.TempDir()
	s, err := openStore(from)
	require.NoError(t, err)
	require.NoError(t, bench.Demo(context.Background(), s, ""))
	numbers, err := s.Numbers(t.Context(), "")
	require.NoError(t, err)
	require.NoError(t, s.Close())
	file := filepath.Join(t.TempDir(), "x.nowthen.json")
	code, _, errs := nowthen(t, "export", numbers[0], "--data", from, "-o", file)
	require.Equal(t, 0, code, errs)
	code, out, errs := nowthen(t, "import", file, "--data", to)
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, numbers[0])
	code, again, errs := nowthen(t, "export", numbers[0], "--data", to)
	require.Equal(t, 0, code, errs)
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, string(data), again)
	code, _, errs = nowthen(t, "export", "1999-0001", "--data", to)
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "no job")
	code, out, _ = nowthen(t, "import", "nowhere.json", "--data", to)
	assert.Equal(t, 2, code)
	assert.Empty(t, out)
}

func TestServeStaysOnThisComputer(t *testing.T) {
	code, _, errs := nowthen(t, "serve", "--listen", "0.0.0.0:7117", "--data", t.TempDir())
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "shop password")
}

func TestOneFolderIsServedOnce(t *testing.T) {
	data := t.TempDir()
	ctx, stop := context.WithCancel(t.Context())
	said := make(chan struct{})
	ended := make(chan int, 1)
	go func() {
		ended <- run(ctx, []string{"serve", "--listen", "127.0.0.1:0", "--data", data}, &firstWords{said: said}, &bytes.Buffer{})
	}()
	<-said
	code, _, errs := nowthen(t, "serve", "--listen", "127.0.0.1:0", "--data", data)
	assert.Equal(t, exitFailed, code)
	assert.Contains(t, errs, "another nowthen serves")
	stop()
	assert.Equal(t, 0, <-ended)
}

// firstWords tells when something is said.
type firstWords struct {
	said chan struct{}
	once sync.Once
}

func (w *firstWords) Write(p []byte) (int, error) {
	w.once.Do(func() { close(w.said) })
	return len(p), nil
}

func TestPasswdOpensTheWay(t *testing.T) {
	data := t.TempDir()
	var out, errs bytes.Buffer
	for password, want := range map[string]int{"short\n": exitFailed, "": exitFailed} {
		cmd := passwdCommand()
		cmd.SetArgs([]string{"--data", data})
		cmd.SetIn(strings.NewReader(password))
		cmd.SetOut(&out)
		cmd.SetErr(&errs)
		got := 0
		if cmd.ExecuteContext(t.Context()) != nil {
			got = exitFailed
		}
		assert.Equal(t, want, got, password)
	}
	cmd := passwdCommand()
	cmd.SetArgs([]string{"--data", data})
	cmd.SetIn(strings.NewReader("a long shop password\n"))
	cmd.SetErr(&errs)
	require.NoError(t, cmd.ExecuteContext(t.Context()))
	s, err := openStore(data)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, access.New(s).Verify(t.Context(), "a long shop password", "here"))
}
