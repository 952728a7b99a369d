package main

import (
	"compress/gzip"
	"context"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// customer makes a folder as a customer may have it.
func customer(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	for name, text := range map[string]string{"letters/one.txt": "one", "letters/two.txt": "two",
		"pictures/dune.raw": strings.Repeat("dune", 9999), "kept.txt": "kept",
		".cache/x": "x", "run.log": "begin"} {
		path := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o700))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	}
	return dir
}

func TestWhatCameAcross(t *testing.T) {
	for _, name := range []string{"then.nowthen-manifest", "then.nowthen-manifest.gz"} {
		dir, out := customer(t), filepath.Join(t.TempDir(), name)
		code, said, errs := run1(t, t.Context(), "manifest", "--of", dir, "--out", out, "--json")
		require.Zero(t, code, errs)
		v := value(t, said)
		assert.EqualValues(t, 6, v["files"])
		assert.EqualValues(t, 3+3+4*9999+4+1+5, v["bytes"])
		assert.EqualValues(t, 0, v["unreadable"])
		left, err := os.ReadDir(filepath.Dir(out))
		require.NoError(t, err)
		assert.Len(t, left, 1, "nothing beside it")

		code, said, _ = run1(t, t.Context(), "manifest", "--of", dir, "--against", out)
		assert.Zero(t, code)
		assert.Equal(t, "4 files, 0 MiB. 4 came across unchanged.\n1 set apart: caches\n1 set apart: logs\n", said)

		require.NoError(t, os.WriteFile(filepath.Join(dir, "letters/one.txt"), []byte("eno"), 0o600))
		require.NoError(t, os.Remove(filepath.Join(dir, "letters/two.txt")))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "more"), nil, 0o600))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "run.log"), []byte("end"), 0o600))
		code, said, errs = run1(t, t.Context(), "manifest", "--against", out, "--of", dir, "--json")
		assert.Zero(t, code, "differences are no failure: "+errs)
		v = value(t, said)
		assert.Equal(t, []any{"letters/two.txt"}, v["missing"])
		assert.Equal(t, []any{"letters/one.txt"}, v["changed"])
		assert.Equal(t, []any{"more"}, v["new"])
		assert.Equal(t, []any{}, v["unreadable_before"])
		assert.Equal(t, []any{}, v["unreadable_now"])
		assert.EqualValues(t, 2, v["unchanged"])
		assert.Equal(t, map[string]any{"caches": 1.0, "logs": 1.0}, v["set_apart"])

		none := filepath.Join(t.TempDir(), "rules.json")
		require.NoError(t, os.WriteFile(none, []byte(`{"letters": ["letters"]}`), 0o600))
		_, said, _ = run1(t, t.Context(), "manifest", "--against", out, "--of", dir, "--json", "--rules", none)
		v = value(t, said)
		assert.Equal(t, []any{"run.log"}, v["changed"])
		assert.Equal(t, map[string]any{"letters": 2.0}, v["set_apart"])
	}
}

// An interrupted run resumes where it stopped, and nothing that was read is lost.
func TestAManifestGoesOn(t *testing.T) {
	for _, name := range []string{"m", "m.gz"} {
		dir, out := customer(t), filepath.Join(t.TempDir(), name)
		require.Zero(t, first(run1(t, t.Context(), "manifest", "--of", dir, "--out", out)))
		whole := unpacked(t, out)
		require.NoError(t, os.Rename(out, out+".unfinished"))
		// Files that were read aren't read again; different content shows what was copied.
		stopped, cancel := context.WithCancel(t.Context())
		cancel()
		code, _, errs := run1(t, stopped, "manifest", "--of", dir, "--out", out)
		assert.Equal(t, exitStopped, code)
		assert.Contains(t, errs, "Resuming after 6 files")
		assert.NoFileExists(t, out)
		assert.ElementsMatch(t, strings.Split(whole, "\n"), strings.Split(unpacked(t, out+".unfinished"), "\n"))

		// Killed in the middle of a line: what comes before it is used.
		data, err := os.ReadFile(out + ".unfinished")
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(out+".unfinished.next", data[:len(data)-9], 0o600))
		require.NoError(t, os.Remove(out+".unfinished"))
		code, _, errs = run1(t, t.Context(), "manifest", "--of", dir, "--out", out)
		require.Zero(t, code, errs)
		assert.Regexp(t, "Resuming after [56] files", errs) // compressed, only the end of the packing was cut off
		assert.Equal(t, whole, unpacked(t, out))
		left, err := os.ReadDir(filepath.Dir(out))
		require.NoError(t, err)
		assert.Len(t, left, 1)
	}
}

func first(code int, _, _ string) int { return code }

func unpacked(t *testing.T, path string) string {
	t.Helper()
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	var in io.Reader = f
	if strings.Contains(path, ".gz") {
		in, err = gzip.NewReader(f)
		require.NoError(t, err)
	}
	data, err := io.ReadAll(in)
	require.NoError(t, err)
	return string(data)
}

func TestManifestUsedWrongly(t *testing.T) {
	dir := customer(t)
	there := filepath.Join(t.TempDir(), "there")
	require.NoError(t, os.WriteFile(there, []byte("mine"), 0o600))
	for _, args := range [][]string{
		{"manifest"}, {"manifest", "--of", dir}, {"manifest", "--out", there + "2"}, {"manifest", "--of", dir, "--out",
			there},
		{"manifest", "--of", dir, "--out", there + "2", "--against", there}, {"manifest", "--of", there, "--out",
			there + "2"},
		{"manifest", "--of", dir, "--against", there}, {"manifest", "--of", dir, "--against", there + "3"}, {"manifest",
			dir},
		{"manifest", "--of", dir, "--out", there + "2", "--rules", there},
	} {
		code, out, errs := run1(t, t.Context(), args...)
		assert.Equal(t, exitRefused, code, args)
		assert.Empty(t, out)
		assert.NotEmpty(t, errs)
	}
	data, err := os.ReadFile(there)
	require.NoError(t, err)
	assert.Equal(t, "mine", string(data))
	assert.NoFileExists(t, there+"2")
}
