package probe

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/manifest"
	"nowthen/core/order"
	"nowthen/machine/contents"
)

func TestWhereTheUsersFilesAre(t *testing.T) {
	for name, tt := range map[string]struct {
		holds []string
		want  string
	}{
		"Windows or macOS":        {[]string{"Users/otti", "Windows"}, "Users"},
		"Linux":                   {[]string{"home/otti", "usr"}, "home"},
		"a drive with files only": {[]string{"Films"}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			mount := t.TempDir()
			for _, d := range tt.holds {
				require.NoError(t, os.MkdirAll(filepath.Join(mount, d), 0o700))
			}
			assert.Equal(t, filepath.Join(mount, tt.want), usersFolder(mount))
		})
	}
}

// What a paused list has read is not read again, and the probe's own folder is not the customer's.
func TestAListGoesOnWhereItWasPaused(t *testing.T) {
	mount := t.TempDir()
	own := filepath.Join(mount, "home", "otti", "now-then")
	letters := filepath.Join(mount, "home", "otti", "letters")
	for _, d := range []string{own, letters} {
		require.NoError(t, os.MkdirAll(d, 0o700))
	}
	for _, name := range []string{"a", "b", "c"} {
		require.NoError(t, os.WriteFile(filepath.Join(letters, name), []byte(strings.Repeat(name, 100)), 0o600))
	}
	out, o := filepath.Join(own, "files-1.gz"), &order.Order{Kind: order.List, Dir: mount}
	ctx, pause := context.WithCancel(t.Context())
	defer pause()
	_, _, err := This{}.List(ctx, o, out, own, func(p drivetest.Progress) {
		if p.Bytes >= 200 {
			pause()
		}
	})
	require.ErrorIs(t, err, context.Canceled)
	assert.NoFileExists(t, out)
	known, err := contents.ReadList(out + ".unfinished")
	require.NoError(t, err)
	require.Len(t, known, 2)

	var last drivetest.Progress
	folder, sum, err := This{}.List(t.Context(), o, out, own, func(p drivetest.Progress) { last = p })
	require.NoError(t, err)
	assert.Equal(t, filepath.Join(mount, "home"), folder)
	assert.Equal(t, manifest.Listed{Files: 3, Bytes: 300}, sum)
	assert.InDelta(t, 1, last.Done, 1e-9)
	list, err := contents.ReadList(out)
	require.NoError(t, err)
	require.Len(t, list, 3)
	assert.Equal(t, "otti/letters/a", list[0].Path)
	assert.NoFileExists(t, out+".unfinished")

	_, _, err = This{}.List(t.Context(), &order.Order{Dir: mount, Folder: filepath.Join(mount, "gone")}, out, own,
		func(drivetest.Progress) {})
	assert.True(t, errors.Is(err, os.ErrNotExist), err)
}
