package server

import (
	"crypto/tls"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/visit"
)

// withProbePort is a bench that other computers reach, with its port for probes and a probe to hand out.
func withProbePort(t *testing.T) (s *Server, cookie, plain, safe string) {
	t.Helper()
	c, err := LoadCertificate(kept{}, t.TempDir(), nil, func(string) {})
	require.NoError(t, err)
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "nowthen-probe-linux-amd64"), []byte("a probe"), 0o600))
	port := bound(t)
	s, cookie = openedAs(t, Options{Certificate: c, ProbePorts: []net.Listener{port}, Probes: dir})
	plain, stop := listen(t, s)
	t.Cleanup(stop)
	return s, cookie, plain, "https://" + port.Addr().String()
}

// far makes a request one of another computer: a proxy on this one names it.
func far(r *http.Request) { r.Header.Set("X-Forwarded-For", "192.0.2.99") }

// fetch sends a request over a real connection, and takes whatever certificate.
func fetch(t *testing.T, method, url, body string, change func(*http.Request)) (int, string) {
	t.Helper()
	req, err := http.NewRequestWithContext(t.Context(), method, url, strings.NewReader(body))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("User-Agent", "X11; Linux x86_64")
	if change != nil {
		change(req)
	}
	client := &http.Client{Transport: &http.Transport{DisableKeepAlives: true,
		TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}}
	res, err := client.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return res.StatusCode, string(text)
}

// Probes, their program and the line to type are for whom nobody in between could have changed them.
func TestProbesOverPlainHTTP(t *testing.T) {
	s, _, plain, safe := withProbePort(t)
	const join = `{"code":"AAAA-AAAA","protocol":1,"engine":"5","system":"linux/amd64","facts":{}}`
	for name, tt := range map[string]struct {
		base   string
		change func(*http.Request)
		safe   bool
	}{
		"plain HTTP within this computer":    {plain, nil, true},
		"plain HTTP from another computer":   {plain, far, false},
		"the port for probes, from wherever": {safe, far, true},
		"the port for probes, by any name":   {safe, func(r *http.Request) { r.Host = "bench.example" }, true},
		"plain HTTP, as a proxy's address in v6": {plain,
			func(r *http.Request) { r.Header.Set("Forwarded", `for="[2001:db8::1]"`) }, false},
	} {
		t.Run(name, func(t *testing.T) {
			pick := func(safe, not int) int {
				if tt.safe {
					return safe
				}
				return not
			}
			status, text := fetch(t, "POST", tt.base+"/api/probe/join", join, tt.change)
			assert.Equal(t, pick(409, 426), status, text)
			if !tt.safe {
				assert.Contains(t, text, "urn:nowthen:problem:join-again")
			}
			status, _ = fetch(t, "GET", tt.base+"/api/probe/work?doing=", "", func(r *http.Request) {
				r.Header.Set("Authorization", "Bearer nobody's")
				if tt.change != nil {
					tt.change(r)
				}
			})
			assert.Equal(t, pick(401, 426), status)
			status, text = fetch(t, "GET", tt.base+"/probe/nowthen-probe-linux-amd64", "", tt.change)
			assert.Equal(t, pick(200, 403), status)
			assert.Equal(t, tt.safe, text == "a probe")
			status, text = fetch(t, "GET", tt.base+"/probe", "", tt.change)
			assert.Equal(t, 200, status)
			assert.Equal(t, tt.safe, strings.Contains(text, `href="/probe/nowthen-probe-linux-amd64"`))
			assert.Equal(t, tt.safe, strings.Contains(text, "#"+s.o.Certificate.Pin()), "the line to type")
			assert.Equal(t, !tt.safe, strings.Contains(text, "is not offered here"), text)
		})
	}
}

// The port for probes has nothing else: nobody is let in there by a session, or reads a page.
func TestThePortForProbes(t *testing.T) {
	s, _, plain, safe := withProbePort(t)
	for _, path := range []string{"/", "/api/jobs", "/api/session", "/api/reach", "/assets/x.js", "/jobs", "/probed",
		"/api/probes", "/finish/x", "/load", "/api/events",
		"/probe/../api/jobs", "/probe/%2e%2e/api/jobs", "/probe//x", "/probe/", "/probe/x/y", "/probe/secret.txt"} {
		status, text := fetch(t, "GET", safe+path, "", nil)
		assert.Equal(t, 404, status, path)
		assert.Contains(t, text, "port is for probes", path)
	}
	status, _ := fetch(t, "GET", plain+"/api/session", "", nil)
	assert.Equal(t, 200, status, "browsers stay as they are")
	assert.False(t, s.o.TLS)
	res, err := http.Get("http://" + strings.TrimPrefix(safe, "https://") + "/probe")
	if err == nil {
		res.Body.Close()
		assert.NotEqual(t, 200, res.StatusCode, "nothing is answered there over plain HTTP")
	}
}

// The line carries 80 bits of the key's fingerprint, but within this computer, and is told only where nobody
// could have changed it.
func TestTheLineToType(t *testing.T) {
	s, cookie, plain, _ := withProbePort(t)
	v, err := s.desk.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, Simulated: "laptop"})
	require.NoError(t, err)
	pair := func(change func(*http.Request)) string {
		status, text := fetch(t, "POST", plain+"/api/jobs/"+v.ID+"/pairing", "", func(r *http.Request) {
			r.Header.Del("Content-Type")
			r.Header.Set("Cookie", cookie)
			if change != nil {
				change(r)
			}
		})
		require.Equal(t, 201, status, text)
		return text
	}
	text := pair(nil)
	lines := regexp.MustCompile(`nowthen-probe join (\S+) [A-Z]{4}-[A-Z]{4}`).FindAllStringSubmatch(text, -1)
	require.Len(t, lines, 2, text)
	assert.Regexp(t, `^https://127\.0\.0\.1:\d+#[0-9a-f]{20,}$`, lines[0][1])
	assert.True(t, strings.HasSuffix(lines[0][1], "#"+s.o.Certificate.Pin()))
	assert.Equal(t, plain, lines[1][1])
	assert.Contains(t, pair(far), `"lines":[]`)
}
