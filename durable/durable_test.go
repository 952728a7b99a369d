package durable_test

import (
	"bufio"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/durable"
)

// names are those of all that is in a folder.
func names(t *testing.T, dir string) (list []string) {
	t.Helper()
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	for _, e := range entries {
		list = append(list, e.Name())
	}
	return list
}

func TestFile(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "a.db")
	require.NoError(t, durable.Write(path, []byte("one")))
	assert.ErrorContains(t, durable.File(path, func(part string) error {
		assert.Equal(t, dir, filepath.Dir(part))
		return errors.Join(os.WriteFile(part, []byte("tw"), 0o600), errors.New("the drive is full"))
	}), "the drive is full")
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, "one", string(text), "what was there stays")
	require.NoError(t, durable.Write(path, []byte("two")))
	text, err = os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, "two", string(text))
	assert.Equal(t, []string{"a.db"}, names(t, dir), "and nothing else")
	assert.Error(t, durable.Write(filepath.Join(dir, "none", "b"), nil))
}

func TestDir(t *testing.T) {
	top := t.TempDir()
	path := filepath.Join(top, "deep", "data")
	fill := func(part string) error { return os.WriteFile(filepath.Join(part, "x"), []byte("x"), 0o600) }
	assert.Error(t, durable.Dir(path, func(part string) error {
		return errors.Join(fill(part), errors.New("cut off"))
	}))
	assert.NoDirExists(t, path)
	require.NoError(t, durable.Dir(path, fill))
	assert.FileExists(t, filepath.Join(path, "x"))
	assert.Error(t, durable.Dir(path, fill), "it is not empty")
	assert.Equal(t, []string{"data"}, names(t, filepath.Dir(path)))
	empty := filepath.Join(top, "empty")
	require.NoError(t, os.Mkdir(empty, 0o700))
	require.NoError(t, durable.Dir(empty, fill))
	assert.FileExists(t, filepath.Join(empty, "x"))
}

// A killed writer leaves nothing that looks complete, and the next start removes its parts; parts still being
// written stay.
func TestAKilledWriter(t *testing.T) {
	dir := t.TempDir()
	if to := os.Getenv("DURABLE_WRITES"); to != "" {
		_ = durable.Dir(filepath.Join(to, "folder"), func(string) error {
			return durable.File(filepath.Join(to, "file"), func(part string) error {
				_ = os.WriteFile(part, []byte("half"), 0o600)
				fmt.Println("writing")
				time.Sleep(time.Hour) // until it is killed
				return nil
			})
		})
		return
	}
	cmd := exec.Command(os.Args[0], "-test.run", "^TestAKilledWriter$")
	cmd.Env = append(os.Environ(), "DURABLE_WRITES="+dir)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	_, err = bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err)
	assert.Len(t, names(t, dir), 2)
	removed, err := durable.Sweep(dir)
	require.NoError(t, err)
	assert.Empty(t, removed, "its writer lives")
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	assert.NoFileExists(t, filepath.Join(dir, "file"))
	assert.NoDirExists(t, filepath.Join(dir, "folder"))
	require.NoError(t, durable.File(filepath.Join(dir, "other"), func(string) error {
		removed, err = durable.Sweep(dir)
		return err
	}))
	assert.Len(t, removed, 2)
	assert.Equal(t, []string{"other"}, names(t, dir))
	removed, err = durable.Sweep(filepath.Join(dir, "none"))
	assert.NoError(t, err)
	assert.Empty(t, removed)
}
