package launch

import (
	"flag"
	"net"
	"os"
	"path/filepath"
	"testing"
	"unsafe"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"
)

var listen1 = flag.String("listen", "", "listen at this port until ended")

// TestListens is the program that the test of ports launches.
func TestListens(t *testing.T) {
	if *listen1 == "" {
		t.Skip("only as a launched program")
	}
	l, err := net.Listen("tcp", "127.0.0.1:"+*listen1)
	require.NoError(t, err)
	for {
		if c, err := l.Accept(); err == nil {
			c.Close()
		}
	}
}

// onDrive is a folder on a drive, which a temporary folder may not be.
func onDrive(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp(".", "cold-")
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, os.RemoveAll(dir)) })
	dir, err = filepath.Abs(dir)
	require.NoError(t, err)
	return dir
}

// cachedAt reports whether the page of a file at an offset is in memory (mincore(2)).
func cachedAt(t *testing.T, path string, at int64) bool {
	t.Helper()
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	m, err := unix.Mmap(int(f.Fd()), at, 4096, unix.PROT_READ, unix.MAP_SHARED)
	require.NoError(t, err)
	defer func() { _ = unix.Munmap(m) }()
	var page [1]byte
	_, _, errno := unix.Syscall(unix.SYS_MINCORE, uintptr(unsafe.Pointer(&m[0])), 4096,
		uintptr(unsafe.Pointer(&page[0])))
	require.Zero(t, errno)
	return page[0]&1 != 0
}

// What a program has open is out of memory when it is launched cold, and in it when not.
func TestColdLaunch(t *testing.T) {
	dir := onDrive(t)
	data := filepath.Join(dir, "data")
	require.NoError(t, os.WriteFile(data, make([]byte, 8<<20), 0o600))
	script := "exec 3<\"$1/data\"; head -c 1000 <&3 >/dev/null; sleep 0.2; echo ready; exec sleep 60"
	cold := shell(t, "line:ready", Options{Cold: true}, script, dir)
	for range 2 {
		r, err := cold.Run(t.Context())
		require.NoError(t, err)
		assert.EqualValues(t, "cold", r.Warmth, r.Note)
		assert.True(t, r.ColdChecked)
		assert.Empty(t, r.Note)
		assert.Contains(t, cold.files, data)
		assert.False(t, cachedAt(t, data, 7<<20), "dropped, and the program read only its beginning")
	}
	_, err := os.ReadFile(data)
	require.NoError(t, err)
	r, err := shell(t, "line:ready", Options{}, script, dir).Run(t.Context())
	require.NoError(t, err)
	assert.EqualValues(t, "warm", r.Warmth)
	assert.False(t, r.ColdChecked)
	assert.True(t, cachedAt(t, data, 7<<20), "a warm launch drops nothing")
}

// Where a file stays in memory, a launch is not called cold.
func TestWhatStaysIsNotCold(t *testing.T) {
	dir := onDrive(t)
	data := filepath.Join(dir, "data")
	require.NoError(t, os.WriteFile(data, make([]byte, 1<<20), 0o600))
	f, err := os.Open(data)
	require.NoError(t, err)
	defer f.Close()
	var pipe [2]int
	require.NoError(t, unix.Pipe(pipe[:]))
	defer func() { _, _ = unix.Close(pipe[0]), unix.Close(pipe[1]) }()
	var at int64
	n, err := unix.Splice(int(f.Fd()), &at, pipe[1], nil, 4096, 0) // a page in a pipe cannot be dropped
	require.NoError(t, err)
	require.EqualValues(t, 4096, n)
	r, err := shell(t, "line:ready", Options{Cold: true}, "exec 3<\"$1/data\"; sleep 0.2; echo ready; exec sleep 60",
		dir).Run(t.Context())
	require.NoError(t, err)
	assert.False(t, r.ColdChecked)
	assert.Empty(t, r.Warmth, "neither is known")
	assert.Contains(t, r.Note, "not cold")
}
