package main

import (
	"bytes"
	"context"
	"database/sql"
	"net"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/backup"
)

// An address that is taken, gone or none ends the program with the reason, and the folder is
// free again.
func TestAnAddressThatCannotBeHad(t *testing.T) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer ln.Close()
	data := t.TempDir()
	for name, tt := range map[string]struct{ addr, says string }{
		"taken":   {ln.Addr().String(), "address already in use"},
		"gone":    {"192.0.2.77:0", "cannot assign requested address"},
		"no port": {"127.0.0.1", "missing port"},
	} {
		t.Run(name, func(t *testing.T) {
			code, _, errs := nowthen(t, "serve", "--data", data, "--listen", tt.addr)
			assert.Equal(t, exitFailed, code)
			assert.Contains(t, errs, tt.says)
			assert.Contains(t, errs, tt.addr)
		})
	}
	unlock, err := lockData(data)
	require.NoError(t, err)
	unlock()
}

// serving runs the program until it says where it is, and returns what it said to its log once it ended.
func serving(t *testing.T, args ...string) (log string) {
	t.Helper()
	ctx, end := context.WithCancel(t.Context())
	var errs bytes.Buffer
	code := run(ctx, args, &hears{end}, &errs)
	require.Equal(t, 0, code, errs.String())
	return errs.String()
}

// hears does something once it is written to.
type hears struct{ then func() }

func (h *hears) Write(p []byte) (int, error) {
	h.then()
	return len(p), nil
}

// A job that is damaged keeps nobody from starting; parts of an interrupted backup are gone then.
func TestServingADamagedFolder(t *testing.T) {
	data := t.TempDir()
	code, _, errs := nowthen(t, "import", visitFile, "--data", data)
	require.Equal(t, 0, code, errs)
	db := filepath.Join(data, backup.Database)
	raw, err := sql.Open("sqlite", db)
	require.NoError(t, err)
	_, err = raw.ExecContext(t.Context(), `UPDATE jobs SET body = 'xx'`)
	require.NoError(t, err)
	require.NoError(t, raw.Close())
	left := filepath.Join(data, ".nowthen.db.999999-1.part")
	require.NoError(t, os.WriteFile(left, []byte("half"), 0o600))
	log := serving(t, "serve", "--data", data, "--listen", "127.0.0.1:0")
	assert.Contains(t, log, "damaged")
	assert.Contains(t, log, "nowthen restore")
	assert.NoFileExists(t, left)

	out := filepath.Join(t.TempDir(), "all.zip")
	code, said, errs := nowthen(t, "backup", out, "--data", data)
	require.Equal(t, 0, code, errs)
	assert.Contains(t, said, "Backed up")
	assert.Equal(t, 1, strings.Count(errs, "is damaged and can't be opened"))
}
