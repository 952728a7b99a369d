package contents

import (
	"bytes"
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"nowthen/core/manifest"
)

// The digest of nothing, and of the bytes 0, 1, 2, as the BLAKE3 test vectors have them.
const (
	ofNothing = "af1349b9f5f9a1a6a0404dea36dcc9499bcb25c9adc112b7cc9a93cae41f3262"
	ofThree   = "e1be4d7a8ab5560aa4199eea339849ba8e293d55ca0a81006726d184519e647f"
)

func put(t *testing.T, dir, name string, data []byte) string {
	t.Helper()
	path := filepath.Join(dir, name)
	require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o700))
	require.NoError(t, os.WriteFile(path, data, 0o600))
	return path
}

func byPath(list []manifest.Entry) map[string]manifest.Entry {
	m := map[string]manifest.Entry{}
	for _, e := range list {
		m[e.Path] = e
	}
	return m
}

func TestEverythingIsNamed(t *testing.T) {
	dir := t.TempDir()
	put(t, dir, "empty", nil)
	three := put(t, dir, "sub/deep er/three", []byte{0, 1, 2})
	put(t, dir, "odd\xffname\n", []byte{0, 1, 2})
	put(t, dir, strings.Repeat("n", 255), nil)
	require.NoError(t, os.Truncate(put(t, dir, "sparse", nil), 64<<20))
	require.NoError(t, os.Symlink("../nowhere", filepath.Join(dir, "broken link")))
	require.NoError(t, os.Symlink("/", filepath.Join(dir, "the whole system")))
	require.NoError(t, unix.Mkfifo(filepath.Join(dir, "pipe"), 0o600))
	require.NoError(t, os.Mkdir(filepath.Join(dir, "empty folder"), 0o700))
	before := time.Date(2020, 2, 2, 2, 2, 2, 123, time.UTC)
	require.NoError(t, os.Chtimes(three, time.Time{}, before))
	list, err := Entries(t.Context(), dir, put(t, dir, "own.nowthen", nil))
	require.NoError(t, err)
	m := byPath(list)
	assert.Len(t, list, 8)
	assert.Equal(t, ofNothing, m["empty"].Digest)
	assert.Equal(t, ofThree, m["sub/deep er/three"].Digest)
	assert.EqualValues(t, 3, m["sub/deep er/three"].Size)
	assert.True(t, m["sub/deep er/three"].Time.Equal(before))
	assert.Equal(t, ofThree, m["odd\xffname\n"].Digest)
	assert.EqualValues(t, 64<<20, m["sparse"].Size)
	assert.Equal(t, "../nowhere", m["broken link"].Link)
	assert.Equal(t, "/", m["the whole system"].Link, "not followed")
	assert.Equal(t, "this is no file but a pipe", m["pipe"].Why, "and nobody waits for it")
	for _, e := range list {
		require.NoError(t, manifest.CheckPath(e.Path))
	}
	info, err := os.Stat(three)
	require.NoError(t, err)
	assert.True(t, info.ModTime().Equal(before), "nothing is changed")
	through := filepath.Join(t.TempDir(), "by a link")
	require.NoError(t, os.Symlink(dir, through))
	again, err := Entries(t.Context(), through, filepath.Join(through, "own.nowthen"))
	require.NoError(t, err)
	assert.Equal(t, list, again, "the folder itself may be named by a link")
}

// What is mounted below is named; its files are another folder's.
func TestWhatIsMountedBelow(t *testing.T) {
	top, err := os.Stat("/")
	require.NoError(t, err)
	proc, err := os.Stat("/proc")
	require.NoError(t, err)
	assert.True(t, elsewhere(top, proc))
	assert.False(t, elsewhere(proc, proc))
	ctx, cancel := context.WithCancel(t.Context())
	var got []manifest.Entry
	err = Read(ctx, "/", Options{Known: nil, Skip: rootBut(t, "proc"), Each: func(e manifest.Entry) error {
		if strings.HasPrefix(e.Path, "proc") {
			got = append(got, e)
			cancel()
		}
		return nil
	}})
	if err != nil {
		require.ErrorIs(t, err, context.Canceled)
	}
	require.Len(t, got, 1)
	assert.Equal(t, "proc", got[0].Path)
	assert.Equal(t, "another file system is mounted here, which is not read", got[0].Why)
}

// rootBut are all entries at the top of the system but one.
func rootBut(t *testing.T, but string) (list []string) {
	t.Helper()
	all, err := os.ReadDir("/")
	require.NoError(t, err)
	for _, e := range all {
		if e.Name() != but {
			list = append(list, "/"+e.Name())
		}
	}
	return list
}

// What was read before is not read again, unless its size or time is another.
func TestKnownFilesAreNotReadAgain(t *testing.T) {
	dir := t.TempDir()
	put(t, dir, "a", []byte("a"))
	put(t, dir, "b", []byte("b"))
	put(t, dir, "c", []byte("c"))
	list, err := Entries(t.Context(), dir)
	require.NoError(t, err)
	known := byPath(list)
	for path, e := range known {
		e.Digest = "known"
		if path == "b" {
			e.Time = e.Time.Add(time.Nanosecond)
		}
		if path == "c" {
			e.Why = "no"
		}
		known[path] = e
	}
	got := map[string]string{}
	require.NoError(t, Read(t.Context(), dir,
		Options{Known: known, Each: func(e manifest.Entry) error { got[e.Path] = e.Digest; return nil }}))
	assert.Equal(t, "known", got["a"])
	assert.Len(t, got["b"], 64)
	assert.Len(t, got["c"], 64)
}

// A file that is written to in the meantime has no digest that would be wrong.
func TestAFileThatChangesMeanwhile(t *testing.T) {
	path := put(t, t.TempDir(), "growing", []byte("a"))
	info, err := os.Stat(path)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(path, []byte("longer"), 0o600))
	_, err = digest(t.Context(), path, info, make([]byte, 10), false)
	assert.ErrorIs(t, err, errChanged)
	info, err = os.Stat(path)
	require.NoError(t, err)
	require.NoError(t, os.Rename(put(t, filepath.Dir(path), "other", []byte("longer")), path))
	_, err = digest(t.Context(), path, info, make([]byte, 10), false)
	assert.ErrorIs(t, err, errChanged, "another file by its name")
	require.NoError(t, os.Remove(path))
	require.NoError(t, os.Symlink("other", path))
	_, err = digest(t.Context(), path, info, make([]byte, 10), false)
	assert.Error(t, err, "a link by its name")
}

func TestReadingStops(t *testing.T) {
	dir := t.TempDir()
	put(t, dir, "a", nil)
	put(t, dir, "b", nil)
	ctx, cancel := context.WithCancel(t.Context())
	n := 0
	err := Read(ctx, dir, Options{Each: func(manifest.Entry) error { n++; cancel(); return nil }})
	assert.ErrorIs(t, err, context.Canceled)
	assert.Equal(t, 1, n)
	full := errors.New("the drive is full")
	assert.ErrorIs(t, Read(t.Context(), dir, Options{Each: func(manifest.Entry) error { return full }}), full)
	_, err = Entries(t.Context(), filepath.Join(dir, "a"))
	assert.ErrorContains(t, err, "is no folder")
	_, err = Entries(t.Context(), filepath.Join(dir, "none"))
	assert.ErrorIs(t, err, os.ErrNotExist)
}

// What one has no right to read is named, and what is beside it is read.
func TestWhatMayNotBeRead(t *testing.T) {
	if os.Geteuid() == 0 {
		// Root may read everything; without that right the same test says more.
		t.Log("run as root: only that nothing is left out is looked at")
	}
	dir := t.TempDir()
	put(t, dir, "beside", []byte{0, 1, 2})
	require.NoError(t, os.Chmod(put(t, dir, "locked", []byte("x")), 0))
	inner := filepath.Dir(put(t, dir, "folder/inner", []byte("x")))
	require.NoError(t, os.Chmod(inner, 0))
	t.Cleanup(func() { _ = os.Chmod(inner, 0o700) })
	list, err := Entries(t.Context(), dir)
	require.NoError(t, err)
	m := byPath(list)
	assert.Equal(t, ofThree, m["beside"].Digest)
	require.Len(t, list, 3)
	if os.Geteuid() != 0 {
		assert.Equal(t, "permission denied", m["locked"].Why)
		assert.Equal(t, "permission denied", m["folder"].Why)
	}
}

// What holds the most is named by its own folder and not by each above it; what lies elsewhere, and
// links, count nothing.
func TestTheLargestFolders(t *testing.T) {
	dir := t.TempDir()
	put(t, dir, "films/holiday/a.raw", make([]byte, 9000))
	put(t, dir, "films/holiday/b.raw", make([]byte, 1000))
	put(t, dir, "letters/2026/a.txt", make([]byte, 300))
	put(t, dir, "letters/b.txt", make([]byte, 200))
	put(t, dir, "deep/er/and/deeper/x", make([]byte, 50))
	put(t, dir, "on top", make([]byte, 5))
	require.NoError(t, os.Symlink(filepath.Join(dir, "films"), filepath.Join(dir, "link")))
	whole, largest, err := Sizes(t.Context(), dir, 2, 3)
	require.NoError(t, err)
	assert.Equal(t, Size{".", 6, 10555}, whole)
	assert.Equal(t, []Size{{"films/holiday", 2, 10000}, {"letters", 2, 500}, {"letters/2026", 1, 300}}, largest)
	_, largest, err = Sizes(t.Context(), dir, 0, 10)
	require.NoError(t, err)
	assert.Empty(t, largest)
	_, _, err = Sizes(t.Context(), filepath.Join(dir, "none"), 1, 1)
	assert.ErrorIs(t, err, os.ErrNotExist)
	stopped, cancel := context.WithCancel(t.Context())
	cancel()
	_, _, err = Sizes(stopped, dir, 1, 1)
	assert.ErrorIs(t, err, context.Canceled)
}

// Gently read it is the same, and a stop is heard while it rests.
func TestReadGently(t *testing.T) {
	dir := t.TempDir()
	put(t, dir, "a", bytes.Repeat([]byte("x"), 3<<20))
	read := func(gentle bool) (list []manifest.Entry) {
		require.NoError(t, Read(t.Context(), dir,
			Options{Gentle: gentle, Each: func(e manifest.Entry) error { list = append(list, e); return nil }}))
		return list
	}
	assert.Equal(t, read(false), read(true))
}
