package server

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhichProbeFitsAVisitor(t *testing.T) {
	for agent, want := range map[string]string{
		"Mozilla/5.0 (Windows NT 10.0; Win64; x64)": "nowthen-probe-windows-amd64.exe",
		"Mozilla/5.0 (Windows NT 10.0; WOW64)":      "nowthen-probe-windows-amd64.exe",
		"Mozilla/5.0 (Windows NT 10.0)":             "nowthen-probe-windows-386.exe",
		"Mozilla/5.0 (Windows NT 10.0; ARM64)":      "nowthen-probe-windows-arm64.exe",
		"Mozilla/5.0 (X11; Linux x86_64)":           "nowthen-probe-linux-amd64",
		"Mozilla/5.0 (X11; Linux i686)":             "nowthen-probe-linux-386",
		"Mozilla/5.0 (X11; Linux aarch64)":          "nowthen-probe-linux-arm64",
		"Mozilla/5.0 (Linux; Android 14)":           "",
		"Mozilla/5.0 (Macintosh; Intel Mac OS X)":   "",
		"": "",
	} {
		file, old := visiting(agent)
		assert.Equal(t, want, file, agent)
		assert.Empty(t, old, agent)
	}
	for _, agent := range []string{"Mozilla/5.0 (Windows NT 6.1; Win64; x64)", "Mozilla/4.0 (Windows NT 5.1)"} {
		file, old := visiting(agent)
		assert.Empty(t, file)
		assert.NotEmpty(t, old, agent)
	}
}

// The probes beside the bench are handed out to whoever comes, and nothing else.
func TestTheProbesAreHandedOut(t *testing.T) {
	dir := t.TempDir()
	for name, text := range map[string]string{"nowthen-probe-linux-amd64": "ELF", "SHA256SUMS": "0  x",
		"secret.txt": "the shop's own"} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	s := newServerAs(t, Options{Open: true, Probes: dir})
	get := func(path string) (int, string) {
		req := request("GET", path, "")
		req.Host = elsewhere + ":7117"
		req.Header.Set("User-Agent", "Mozilla/5.0 (X11; Linux x86_64)")
		status, body, _ := do(t, s, req)
		return status, body
	}
	status, page := get("/probe")
	assert.Equal(t, 200, status)
	assert.Contains(t, page, `href="/probe/nowthen-probe-linux-amd64"`)
	assert.Contains(t, page, "./nowthen-probe-linux-amd64 join http://")
	assert.NotContains(t, page, "secret")
	status, file := get("/probe/nowthen-probe-linux-amd64")
	assert.Equal(t, 200, status)
	assert.Equal(t, "ELF", file)
	for _, path := range []string{"/probe/secret.txt", "/probe/..%2Fsecret.txt", "/probe/nowthen-probe-linux-arm64",
		"/probe/nowthen-probe-linux-amd64%00"} {
		status, body := get(path)
		assert.GreaterOrEqual(t, status, 400, path)
		assert.NotContains(t, body, "the shop's own", path)
	}
	s = newServerAs(t, Options{Open: true})
	_, page = get("/probe")
	assert.Contains(t, page, "make dist")
}
