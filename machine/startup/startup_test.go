package startup

import (
	"flag"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write the golden files anew")

// What each system's start reads is as it was checked; a golden file a system.
func TestEntries(t *testing.T) {
	if runtime.GOOS == "windows" {
		t.Skip("paths are written otherwise there")
	}
	command := []string{`/media/it's a "stick"/nowthen-probe`, "join", "--state", "/media/100%/$HOME"}
	for name, s := range map[string]System{
		"folder":  {OS: "linux", Home: "/home/pia", Folder: "/start.d"},
		"desktop": {OS: "linux", Home: "/home/pia", Systemd: true},
		"service": {OS: "linux", Home: "/root", Root: true, Systemd: true},
		"agent":   {OS: "darwin", Home: "/Users/pia"},
	} {
		t.Run(name, func(t *testing.T) {
			e, err := s.Entry(command)
			require.NoError(t, err)
			golden := filepath.Join("testdata", name+".golden")
			got := e.Path + "\n" + e.Link + "\n" + e.Text
			if *update {
				require.NoError(t, os.WriteFile(golden, []byte(got), 0o600))
			}
			want, err := os.ReadFile(golden)
			require.NoError(t, err)
			assert.Equal(t, string(want), got)
			assert.Equal(t, name == "folder" || name == "service", e.BeforeSignIn)
			assert.Contains(t, e.Place, e.Path)
		})
	}
	e, err := System{OS: "windows"}.Entry([]string{`E:\now then\nowthen-probe.exe`, "join"})
	require.NoError(t, err)
	assert.Equal(t, `"E:\now then\nowthen-probe.exe" "join"`, e.Value)
	assert.Empty(t, e.Path)
}

func TestCommandsThatAreNone(t *testing.T) {
	for _, command := range [][]string{nil, {"/a\nb"}, {"/a", "b\x00"}, {"/a", "b\rc"}} {
		_, err := System{OS: "linux", Home: "/home/pia"}.Entry(command)
		assert.ErrorIs(t, err, ErrName, "%q", command)
	}
	_, err := System{OS: "windows"}.Entry([]string{`C:\a".exe`})
	assert.ErrorIs(t, err, ErrName)
	_, err = System{OS: "linux"}.Entry([]string{"/a"})
	assert.Error(t, err, "nobody's folder is known")
}

// The entry of a start folder runs its command once, with all that is odd in it, and is gone before that.
func TestAnEntryRunsOnceAndIsGone(t *testing.T) {
	if _, err := exec.LookPath("sh"); err != nil {
		t.Skip("there is no shell here")
	}
	dir := t.TempDir()
	folder := filepath.Join(dir, "it's the start")
	probe, said := filepath.Join(dir, `a "probe" $HOME 100%`), filepath.Join(dir, "said")
	require.NoError(t, os.WriteFile(probe,
		[]byte("#!/bin/sh\nls '"+strings.ReplaceAll(folder, "'",
			`'\''`)+"' > '"+said+"'\nprintf '%s' \"$1\" >> '"+said+"'\n"), 0o700))
	e, err := System{OS: "linux", Folder: folder}.Entry([]string{probe, "$(touch " + dir + "/hostile) `x` 'y'"})
	require.NoError(t, err)
	require.NoError(t, Put(e))
	require.NoError(t, Put(e), "what stands there is its own")
	out, err := exec.Command(e.Path).CombinedOutput()
	require.NoError(t, err, string(out))
	text, err := os.ReadFile(said)
	require.NoError(t, err)
	assert.Equal(t, "$(touch "+dir+"/hostile) `x` 'y'", string(text),
		"the folder was empty when it ran, and the argument is one")
	assert.NoFileExists(t, filepath.Join(dir, "hostile"))
	assert.NoError(t, Remove(e), "it is out already")
}

// A service's second name is taken out with it.
func TestBothNamesAreTakenOut(t *testing.T) {
	dir := t.TempDir()
	e := Entry{Path: filepath.Join(dir, "a"), Link: filepath.Join(dir, "wants", "a"), Text: "x", Mode: 0o600,
		Place: "there"}
	require.NoError(t, Put(e))
	assert.FileExists(t, e.Link)
	require.NoError(t, Remove(e))
	for _, p := range []string{e.Path, e.Link} {
		_, err := os.Lstat(p)
		assert.ErrorIs(t, err, os.ErrNotExist)
	}
	e.Path = filepath.Join(dir, "a", "b")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a"), nil, 0o600))
	assert.ErrorContains(t, Put(e), "the system's start")
}
