package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"nowthen/machine/contents"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/zeebo/blake3"

	"nowthen/core/manifest"
	"nowthen/testscale"
)

// manyFiles is how many files a generated tree has; NOWTHEN_MANY says another number, and make
// bench 100,000.
func manyFiles(tb testing.TB) int {
	tb.Helper()
	if n, err := strconv.Atoi(os.Getenv("NOWTHEN_MANY")); err == nil {
		return n
	}
	return testscale.Of(10_000, 3_000)
}

// tree makes a tree of so many small files, the same each time, and returns how many bytes they are.
func tree(tb testing.TB, dir string, many int) (bytes int64) {
	tb.Helper()
	at := time.Date(2026, 5, 4, 9, 0, 0, 0, time.UTC)
	for i := range many {
		folder := filepath.Join(dir, fmt.Sprintf("shelf %02d", i%40), fmt.Sprintf("box %03d", i%1000))
		if i < 1000 {
			require.NoError(tb, os.MkdirAll(folder, 0o755))
		}
		path := filepath.Join(folder, fmt.Sprintf("sheet %06d.txt", i))
		text := strings.Repeat(fmt.Sprintf("sheet %d of the made-up archive\n", i), 1+i%17)
		require.NoError(tb, os.WriteFile(path, []byte(text), 0o644))
		require.NoError(tb, os.Chtimes(path, at, at))
		bytes += int64(len(text))
	}
	return bytes
}

// sheet is the path of one of a tree's files.
func sheet(i int) string { return fmt.Sprintf("shelf %02d/box %03d/sheet %06d.txt", i%40, i%1000, i) }

// built is the probe as a program of its own.
func built(tb testing.TB) string {
	tb.Helper()
	path := filepath.Join(tb.TempDir(), "nowthen-probe")
	said, err := exec.Command("go", "build", "-o", path, ".").CombinedOutput()
	require.NoError(tb, err, string(said))
	return path
}

// asNobody runs a program without the rights of an administrator, who may read all; one that has none runs it as it is.
func asNobody(cmd *exec.Cmd) *exec.Cmd {
	if os.Geteuid() == 0 {
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: 65534, Gid: 65534}}
	}
	return cmd
}

// reachable opens the folders above one of a test's to all, who may then come to it.
func reachable(tb testing.TB, dir string) {
	tb.Helper()
	for at := dir; at != os.TempDir() && at != "/"; at = filepath.Dir(at) {
		require.NoError(tb, os.Chmod(at, 0o755))
	}
}

// A large tree is written down by a probe that is killed and started again, and compared with a
// copy in which of everything that
// can go wrong one thing was planted: each is found, and nothing else. What was read once is not
// read again, and memory is bounded.
func TestALargeTree(t *testing.T) {
	many := manyFiles(t)
	probe, before, after, out := built(t), t.TempDir(), t.TempDir(), t.TempDir()
	for _, dir := range []string{probe, before, after, out} {
		reachable(t, filepath.Dir(dir))
		require.NoError(t, os.Chmod(dir, 0o755))
	}
	require.NoError(t, os.Chmod(out, 0o777))
	bytes := tree(t, before, many)
	tree(t, after, many)

	// Before the swap already: what cannot be read, and what changes while it is read.
	locked, restless := many/3, many/5
	require.NoError(t, os.Chmod(filepath.Join(before, sheet(locked)), 0o000))
	writing, stop := context.WithCancel(t.Context())
	quiet := make(chan struct{})
	go func() {
		defer close(quiet)
		f, err := os.OpenFile(filepath.Join(before, sheet(restless)), os.O_WRONLY|os.O_TRUNC, 0)
		if err != nil {
			return
		}
		defer f.Close()
		// It takes a while to be read, in which it grows: within a tick of the clock its time alone would not tell.
		_, _ = f.Write(make([]byte, 16<<20))
		for writing.Err() == nil {
			_, _ = f.Write([]byte{1})
		}
	}()

	file := filepath.Join(out, "manifest.gz")
	write := func() *exec.Cmd {
		return asNobody(exec.Command(probe, "manifest", "--of", before, "--out", file, "--gentle", "--json"))
	}
	// Killed as soon as some of it is on the drive.
	first := write()
	require.NoError(t, first.Start())
	require.Eventually(t, func() bool {
		info, err := os.Stat(file + ".unfinished.next")
		return err == nil && info.Size() > int64(many)*5
	}, time.Hour, time.Millisecond)
	require.NoError(t, first.Process.Kill())
	_ = first.Wait()
	require.NoFileExists(t, file)
	seen, _ := contents.ReadList(file + ".unfinished.next")
	require.NotEmpty(t, seen)
	require.Less(t, len(seen), many)
	// Another content of the same size and time in a file that was read: who reads it again would see it.
	taken := seen[len(seen)/2]
	require.NotEmpty(t, taken.Digest)
	other := filepath.Join(before, taken.Path)
	require.NoError(t, os.WriteFile(other, make([]byte, taken.Size), 0o644))
	require.NoError(t, os.Chtimes(other, taken.Time, taken.Time))

	second := write()
	said, err := second.Output()
	require.NoError(t, err)
	stop()
	<-quiet
	var sum written
	require.NoError(t, json.Unmarshal(said, &sum))
	assert.Equal(t, many, sum.Files)
	assert.Less(t, maxMemory(second), int64(200<<20))
	list, err := contents.ReadList(file)
	require.NoError(t, err)
	at := map[string]manifest.Entry{}
	for _, e := range list {
		at[e.Path] = e
	}
	assert.Equal(t, taken.Digest, at[taken.Path].Digest, "what was read before the kill is not read again")
	assert.NotEmpty(t, at[sheet(restless)].Why, "it changed while it was read")
	assert.InDelta(t, float64(bytes), float64(sum.Bytes), 64<<20)

	// After the swap.
	in := func(i int) string { return filepath.Join(after, sheet(i)) }
	missing, changed, renamed, shut := many/2, many/2+1, many/2+2, many/2+3
	require.NoError(t, os.Remove(in(missing)))
	info, err := os.Stat(in(changed))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(in(changed), make([]byte, info.Size()), 0o644))
	require.NoError(t, os.Chtimes(in(changed), info.ModTime(), info.ModTime())) // size and time as before
	require.NoError(t, os.Rename(in(renamed), in(renamed)+".old"))
	require.NoError(t, os.Chmod(in(shut), 0o000))
	require.NoError(t, os.WriteFile(filepath.Join(after, "new.txt"), []byte("x"), 0o644))
	compare := asNobody(exec.Command(probe, "manifest", "--against", file, "--of", after, "--json"))
	said, err = compare.Output()
	require.NoError(t, err)
	var d manifest.Difference
	require.NoError(t, json.Unmarshal(said, &d))
	assert.ElementsMatch(t, []string{sheet(missing), sheet(renamed)}, d.Missing)
	assert.ElementsMatch(t, []string{sheet(changed)}, d.Changed)
	assert.ElementsMatch(t, []string{"new.txt", sheet(renamed) + ".old"}, d.New)
	assert.ElementsMatch(t, []string{sheet(shut)}, d.UnreadableNow)
	assert.ElementsMatch(t, []string{sheet(locked), sheet(restless)}, d.UnreadableBefore)
	assert.Equal(t, many-6, d.Unchanged)
	assert.Less(t, maxMemory(compare), int64(200<<20))
}

// maxMemory is the most memory that a program that has ended held, bytes.
func maxMemory(cmd *exec.Cmd) int64 {
	return int64(cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss) << 10 // of 32 bits elsewhere
}

// BenchmarkManifest writes a large tree down and reads and hashes the same files in a plain loop,
// in turn, and prints the ratio of
// their rates: 0.9 or more is meant.
func BenchmarkManifest(b *testing.B) {
	dir := b.TempDir()
	tree(b, dir, manyFiles(b))
	plain := func() time.Duration {
		began := time.Now()
		require.NoError(b, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() {
				return err
			}
			f, err := os.Open(path)
			if err != nil {
				return err
			}
			defer f.Close()
			h := blake3.New()
			_, err = io.Copy(h, f)
			h.Sum(nil)
			return err
		}))
		return time.Since(began)
	}
	ours := func() time.Duration {
		o := manifests{of: dir, out: filepath.Join(b.TempDir(), "m")}
		began := time.Now()
		require.NoError(b, o.write(b.Context(), io.Discard, io.Discard))
		return time.Since(began)
	}
	plain() // both find the files in memory
	var us, them time.Duration
	for b.Loop() {
		them += plain()
		us += ours()
	}
	b.ReportMetric(them.Seconds()/us.Seconds(), "of-plain")
}
