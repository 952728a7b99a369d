package main

import (
	"bytes"
	"context"
	"database/sql"
	"net"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/backup"
)

// An unavailable or invalid address ends the program with the reason, and the folder is unlocked.
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
	_, log = served(t, args...)
	return log
}

// served does the same, and returns what it said of where it is too.
func served(t *testing.T, args ...string) (said, log string) {
	t.Helper()
	ctx, end := context.WithCancel(t.Context())
	var errs bytes.Buffer
	out := &hears{then: end}
	code := run(ctx, args, out, &errs)
	require.Equal(t, 0, code, errs.String())
	return out.String(), errs.String()
}

// hears calls a function once it is written to.
type hears struct {
	bytes.Buffer
	then func()
}

func (h *hears) Write(p []byte) (int, error) {
	h.then()
	return h.Buffer.Write(p)
}

// The port at which probes join is beside that of the pages and remembered; a backup takes the key along, so
// that probes know the bench again. A port in use doesn't prevent the start.
func TestWhereProbesJoin(t *testing.T) {
	data := t.TempDir()
	at := func(args ...string) (address, log string) {
		said, log := served(t, append([]string{"serve", "--data", data, "--listen", "127.0.0.1:0"}, args...)...)
		found := regexp.MustCompile(`Probes join at https://(127\.0\.0\.1:\d+)(#[0-9a-f]{20})\n`).FindStringSubmatch(said)
		require.Len(t, found, 3, said+log)
		return found[1] + found[2], log
	}
	first, log := at()
	assert.Contains(t, log, "a new certificate was made")
	again, log := at()
	assert.Equal(t, first, again)
	assert.NotContains(t, log, "certificate")
	out := filepath.Join(t.TempDir(), "all.zip")
	code, _, errs := nowthen(t, "backup", out, "--data", data)
	require.Equal(t, 0, code, errs)
	data = filepath.Join(t.TempDir(), "restored")
	code, _, errs = nowthen(t, "restore", out, "--data", data)
	require.Equal(t, 0, code, errs)
	again, _ = at()
	assert.Equal(t, first, again, "after a restore")

	host, pin, _ := strings.Cut(first, "#")
	taken, err := net.Listen("tcp", host)
	require.NoError(t, err)
	defer taken.Close()
	other, log := at()
	assert.NotEqual(t, first, other)
	assert.True(t, strings.HasSuffix(other, "#"+pin), "the same key")
	assert.Contains(t, log, "is taken")
	assert.Contains(t, log, host)
	_, log = at("--probe-listen", host)
	assert.Contains(t, log, "is taken", "an address that was asked for, too")
	require.NoError(t, taken.Close())
	again, _ = at()
	assert.Equal(t, first, again, "the first port is remembered")
	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	require.NoError(t, free.Close())
	asked, _ := at("--probe-listen", free.Addr().String())
	assert.True(t, strings.HasPrefix(asked, free.Addr().String()+"#"))
	code, _, errs = nowthen(t, "serve", "--data", data, "--listen", "127.0.0.1:0", "--probe-listen", "nowhere")
	assert.Equal(t, exitFailed, code)
	assert.Contains(t, errs, "--probe-listen nowhere")
}

// With a damaged key, pages are still served and probes can't join; with --tls nothing can be served.
func TestADamagedKey(t *testing.T) {
	data := t.TempDir()
	served(t, "serve", "--data", data, "--listen", "127.0.0.1:0")
	raw, err := sql.Open("sqlite", filepath.Join(data, backup.Database))
	require.NoError(t, err)
	_, err = raw.ExecContext(t.Context(), `UPDATE settings SET body = 'xx' WHERE name = 'certificate-key'`)
	require.NoError(t, err)
	require.NoError(t, raw.Close())
	said, log := served(t, "serve", "--data", data, "--listen", "127.0.0.1:0")
	assert.Contains(t, said, "The bench is at http://")
	assert.Contains(t, said, "Probes join at http://127.0.0.1", "on this computer they can")
	assert.Contains(t, log, "probes of other computers can't join")
	code, _, errs := nowthen(t, "serve", "--data", data, "--listen", "127.0.0.1:0", "--tls")
	assert.Equal(t, exitFailed, code)
	assert.Contains(t, errs, "certificate")
}

// A damaged job doesn't prevent the start; parts of an interrupted backup are removed.
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
