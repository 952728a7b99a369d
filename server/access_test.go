package server

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"fmt"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/timing"
	"nowthen/bench/visit"
	"nowthen/core/stopwatch"
	"nowthen/store"
)

const shopPassword = "a long shop password"

// opened is a server that other computers reach, with a signed-in browser.
func opened(t *testing.T) (s *Server, cookie string) { return openedAs(t, Options{}) }

// openedAs is one with further options.
func openedAs(t *testing.T, o Options) (s *Server, cookie string) {
	t.Helper()
	o.Open = true
	s = newServerAs(t, o)
	require.NoError(t, s.o.Guard.SetPassword(t.Context(), shopPassword))
	req := request("POST", "/api/session", fmt.Sprintf(`{"password":%q}`, shopPassword))
	req.Host = elsewhere + ":7117"
	status, body, header := do(t, s, req)
	require.Equal(t, 200, status, body)
	set := header.Get("Set-Cookie")
	for _, part := range []string{"HttpOnly", "SameSite=Strict", "path=/"} {
		assert.Contains(t, strings.ToLower(set), strings.ToLower(part))
	}
	cookie, _, _ = strings.Cut(set, ";")
	return s, cookie
}

// Who may call what, where the bench is open to the shop's network: a technician
// everything; somebody who is not signed in, and a browser that knows a finish
// line's word, just what is marked. A route that is not in the table fails.
func TestEveryRouteWithEveryCaller(t *testing.T) {
	const (
		everybody = iota
		technician
		aProbe // that has joined, by its token
	)
	table := map[string]int{
		"GET /api/sticks": technician, "POST /api/sticks": technician, "DELETE /api/sticks/:stick": technician, "GET /api/offers": technician,
		"POST /api/offers/:offer/admit": technician, "DELETE /api/offers/:offer": technician,
		"POST /api/probe/announce": everybody, "GET /api/probe/admission": everybody,
		"POST /api/probe/join": everybody, "POST /api/probe/hello": aProbe, "GET /api/probe/work": aProbe, "POST /api/probe/progress": aProbe, "POST /api/probe/sign": aProbe,
		"POST /api/probe/looked": aProbe, "POST /api/probe/weighed": aProbe, "POST /api/probe/checked": aProbe, "POST /api/probe/listed": aProbe, "GET /api/probe/list": aProbe, "POST /api/probe/compared": aProbe, "PUT /api/jobs/:job/probes/:probe/files": technician, "POST /api/probe/runs": aProbe, "POST /api/probe/ended": aProbe, "POST /api/probe/left": aProbe,
		"POST /api/jobs/:job/pairing": technician, "POST /api/jobs/:job/launches": technician, "POST /api/jobs/:job/restarts": technician, "GET /api/jobs/:job/swap": technician, "POST /api/jobs/:job/probes/:probe/refresh": technician, "GET /api/jobs/:job/probes": technician, "DELETE /api/jobs/:job/probes/:probe": technician,
		"POST /api/jobs/:job/probes/:probe/stay": technician, "GET /api/jobs/:job/probes/:probe/conditions": technician, "POST /api/jobs/:job/probes/:probe/facts": technician, "POST /api/jobs/:job/probes/:probe/doings": technician, "POST /api/jobs/:job/probes/:probe/starts": technician,
		"GET /api/session": everybody, "POST /api/session": everybody, "DELETE /api/session": everybody,
		"DELETE /api/sessions": technician, "PUT /api/password": technician, "GET /api/reach": technician, "PUT /api/reach": technician, "DELETE /api/reach": technician, "GET /api/reach/qr.png": technician,
		"GET /load": everybody, "GET /load.js": everybody, "POST /load/seen": everybody, "GET /f/:word": everybody, "GET /f/:word/:page": everybody, "GET /f/:word/:page/seen.gif": everybody,
		"GET /r/:token": everybody, "GET /r/:token/look": everybody, "GET /r/:token/card": everybody, "POST /r/:token/look": everybody,
		"PUT /api/jobs/:job/checks/:check": technician, "POST /api/jobs/:job/probes/:probe/weigh": technician, "GET /api/jobs/:job/layout": technician, "PUT /api/jobs/:job/held": technician, "POST /api/jobs/:job/sustained": technician, "PUT /api/jobs/:job/probes/:probe/check": technician, "DELETE /api/jobs/:job/probes/:probe/check": technician, "GET /api/jobs/:job/fitting": technician, "PUT /api/jobs/:job/fitting": technician,
		"POST /api/jobs/:job/tasks": technician, "PUT /api/jobs/:job/tasks/:task": technician, "PUT /api/jobs/:job/tasks/:task/clock": technician,
		"GET /api/due": technician, "POST /api/jobs/:job/promises": technician, "DELETE /api/jobs/:job/promises/:promise": technician, "PUT /api/jobs/:job/promises/:promise/answer": technician,
		"GET /api/jobs/:job/shares": technician, "POST /api/jobs/:job/shares": technician, "DELETE /api/jobs/:job/shares/:share": technician,
		"PATCH /api/jobs/:job/setups/:setup": technician, "PUT /api/jobs/:job/drives/:drive/fate": technician,
		"DELETE /api/jobs/:job/gates/:gate": technician, "PATCH /api/jobs/:job/work/:work": technician,
		"DELETE /api/jobs/:job/work/:work": technician, "PUT /api/jobs/:job/sittings/:sitting/purpose": technician,
		"GET /probe": everybody, "GET /probe/:file": everybody,
		"GET /*": everybody, // the pages' files, which hold no data

		"GET /api/clock": technician, "GET /api/events": technician, "GET /api/settings": technician, "GET /api/settings/usual": technician, "GET /api/settings/prices": technician, "PUT /api/settings/prices": technician, "GET /api/jobs/:job/forecast": technician, "GET /api/known": technician, "GET /api/jobs/:job/quote": technician, "PUT /api/jobs/:job/quote": technician, "GET /api/jobs/:job/quote/file": technician, "PUT /api/jobs/:job/accept": technician, "GET /api/settings/shop": technician, "PUT /api/settings/shop": technician, "POST /api/settings/usual": technician, "GET /api/computer": technician, "GET /api/conditions": technician, "GET /api/folders": technician,
		"GET /api/technicians": technician, "POST /api/technicians": technician, "GET /api/technicians/:technician": technician, "GET /api/templates/:template": technician,
		"GET /api/jobs/:job/sittings/:sitting": technician, "GET /api/jobs/:job/runs": technician, "GET /api/jobs/:job/runs/:run": technician, "GET /api/jobs/:job/tests/:test": technician,
		"GET /api/jobs/:job/setups/:setup": technician, "GET /api/jobs/:job/steps/:step": technician, "GET /api/jobs/:job/clips/:clip": technician, "PATCH /api/jobs/:job/plan": technician,
		"GET /api/jobs": technician, "POST /api/jobs": technician, "POST /api/jobs/import": technician, "GET /api/jobs/:job": technician, "PATCH /api/jobs/:job": technician,
		"POST /api/jobs/:job/events": technician, "DELETE /api/jobs/:job/setups/:setup/last-event": technician, "DELETE /api/jobs/:job/template": technician,
		"GET /api/jobs/:job/earlier": technician, "POST /api/jobs/:job/earlier": technician, "POST /api/jobs/:job/other-drives": technician, "DELETE /api/jobs/:job/other-drives/:drive": technician,
		"GET /api/jobs/:job/export": technician, "POST /api/jobs/:job/gates": technician,
		"GET /api/templates": technician, "POST /api/templates": technician, "DELETE /api/templates/:template": technician, "GET /api/catalogue": technician,
		"PUT /api/jobs/:job/template": technician, "PUT /api/jobs/:job/answers": technician, "POST /api/jobs/:job/tests": technician,
		"PATCH /api/jobs/:job/tests/:test": technician, "DELETE /api/jobs/:job/tests/:test": technician, "PUT /api/jobs/:job/excuses": technician,
		"POST /api/jobs/:job/work": technician, "POST /api/jobs/:job/steps": technician, "PUT /api/jobs/:job/steps/:step": technician,
		"DELETE /api/jobs/:job/steps/:step": technician, "DELETE /api/jobs/:job/reports/:revision": technician, "DELETE /api/jobs/:job": technician, "POST /api/jobs/:job/restore": technician, "POST /api/jobs/:job/steps/:step/photos": technician, "POST /api/jobs/:job/sittings/:sitting/photos": technician, "POST /api/jobs/:job/runs/:run/photos": technician, "GET /api/jobs/:job/photos/:photo": technician,
		"POST /api/jobs/:job/setups": technician, "PUT /api/jobs/:job/setups/:setup/stays": technician, "POST /api/jobs/:job/setups/:setup/sitting-file": technician,
		"PUT /api/jobs/:job/setups/:setup/used": technician,
		"POST /api/jobs/:job/sittings":          technician, "PUT /api/jobs/:job/sittings/:sitting": technician, "POST /api/jobs/:job/runs": technician, "POST /api/jobs/:job/table": technician,
		"PUT /api/jobs/:job/runs/:run/set-aside": technician, "DELETE /api/jobs/:job/runs/:run/set-aside": technician, "POST /api/jobs/:job/waiting/:run/accept": technician, "DELETE /api/jobs/:job/waiting/:run": technician, "POST /api/jobs/:job/perform": technician,
		"GET /api/jobs/:job/tests/:test/closer": technician,
		"GET /api/jobs/:job/clips":              technician, "POST /api/jobs/:job/clips": technician, "PUT /api/jobs/:job/clips/:clip/bytes": technician,
		"GET /api/jobs/:job/clips/:clip/file": technician, "PATCH /api/jobs/:job/clips/:clip": technician, "DELETE /api/jobs/:job/clips/:clip": technician,
		"POST /api/jobs/:job/clips/:clip/runs": technician, "POST /api/jobs/:job/stills": technician,
		"GET /api/jobs/:job/measuring": technician, "POST /api/jobs/:job/measuring": technician, "DELETE /api/jobs/:job/measuring": technician,
		"GET /api/jobs/:job/timer": technician, "PUT /api/jobs/:job/timer": technician, "DELETE /api/jobs/:job/timer": technician,
		"POST /api/jobs/:job/timer/presses": technician, "DELETE /api/jobs/:job/timer/presses": technician, "POST /api/jobs/:job/timer/keep": technician,
		"GET /api/jobs/:job/ledger": technician, "GET /api/jobs/:job/candidates": technician, "GET /api/jobs/:job/reference": technician, "PUT /api/jobs/:job/carried": technician, "PUT /api/jobs/:job/bill": technician, "GET /api/jobs/:job/reports": technician, "PUT /api/jobs/:job/report/draft": technician, "GET /api/jobs/:job/report/file": technician, "GET /api/jobs/:job/report": technician, "POST /api/jobs/:job/report": technician,
	}
	s, cookie := opened(t)
	_, body, _ := do(t, s, func() *http.Request {
		r := request("GET", "/api/jobs?state=all", "")
		r.Header.Set("Cookie", cookie)
		return r
	}())
	id := field(t, []byte(body), "cards", "0", "id").(string)
	sit := request("POST", "/api/jobs/"+id+"/sittings", `{"setup":"then","conditions":{}}`)
	sit.Header.Set("Cookie", cookie)
	status, body, _ := do(t, s, sit)
	require.Equal(t, 201, status, body)
	arm := request("PUT", "/api/jobs/"+id+"/timer", `{"test":"t-start","sitting":"s1"}`)
	arm.Header.Set("Cookie", cookie)
	status, body, _ = do(t, s, arm)
	require.Equal(t, 200, status, body)
	word := strings.TrimPrefix(field(t, []byte(body), "finish").(string), "/f/")
	shouted := request("GET", strings.ToUpper("/f/"+word), "")
	shouted.Host = elsewhere + ":7117"
	status, body, _ = do(t, s, shouted)
	assert.Equal(t, 200, status, "a finish line that was typed in capitals")
	assert.Contains(t, body, "does not run yet")

	pair := request("POST", "/api/jobs/"+id+"/pairing", "")
	pair.Header.Set("Cookie", cookie)
	status, body, _ = do(t, s, pair)
	require.Equal(t, 201, status, body)
	status, body, _ = do(t, s, request("POST", "/api/probe/join", `{"code":"`+field(t, []byte(body), "code").(string)+`","protocol":1,"engine":"5","system":"linux/amd64",
		"facts":{"computer":{},"system":{},"drives":[],"volumes":[],"partitions":[],"absent":[]}}`))
	require.Equal(t, 201, status, body)
	token := field(t, []byte(body), "token").(string)

	callers := map[string]func(*http.Request){
		"a probe": func(r *http.Request) {
			r.Header.Set("Authorization", "Bearer "+token)
			r.Header.Set("Cookie", sessionCookie+"="+token)
		},
		"nobody": func(*http.Request) {},
		"a finish line": func(r *http.Request) {
			r.Header.Set("Cookie", sessionCookie+"="+word)
			r.Header.Set("Authorization", "Bearer "+word)
			r.Header.Set("Referer", "http://192.0.2.7:7117/f/"+word)
		},
		"an old session": func(r *http.Request) {
			r.Header.Set("Cookie", sessionCookie+"=AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA")
		},
	}
	routes := map[string]bool{}
	for _, r := range s.app.GetRoutes(true) {
		if r.Method == "HEAD" || r.Method == "USE" {
			continue
		}
		name := r.Method + " " + r.Path
		routes[name] = true
		may, known := table[name]
		free := may == everybody
		if !assert.True(t, known, "%s stands in no table", name) {
			continue
		}
		path := strings.NewReplacer(":job", id, ":word", word, ":page", "1", ":test", "t-start", ":setup", "then",
			":sitting", "s1", "*", "").Replace(r.Path)
		for who, as := range callers {
			if who == "a probe" && (r.Path == "/api/probe/work" || r.Path == "/api/probe/left") {
				continue // it waits, and ends; both are tried with the contract
			}
			req := request(r.Method, path, "")
			req.Host = elsewhere + ":7117"
			as(req)
			status, answer, _ := do(t, s, req)
			if free || may == aProbe && who == "a probe" {
				assert.NotEqual(t, 401, status, "%s: %s", who, name)
			} else {
				assert.Equal(t, 401, status, "%s: %s", who, name)
				assert.NotContains(t, answer, "customer", "%s: %s", who, name)
			}
		}
		if r.Path == "/api/events" || free || name == "PUT /api/password" || name == "DELETE /api/sessions" {
			continue // endless, or tried elsewhere
		}
		req := request(r.Method, path, "")
		req.Header.Set("Cookie", cookie)
		req.Host = elsewhere + ":7117"
		status, _, _ := do(t, s, req)
		if may == aProbe {
			assert.Equal(t, 401, status, "a technician is no probe: %s", name)
		} else {
			assert.NotEqual(t, 401, status, "a technician: %s", name)
		}
	}
	for name := range table {
		assert.True(t, routes[name], "%s is no route any more", name)
	}
}

// No other spelling of a route bypasses the checks.
func TestNoOtherSpellingOfARoute(t *testing.T) {
	s, cookie := opened(t)
	ask := func(path, cookie string) (int, string) {
		req := request("GET", "/", "")
		req.RequestURI = path // as it stands on the line
		req.Host = elsewhere + ":7117"
		req.Header.Set("Cookie", cookie)
		status, answer, _ := do(t, s, req)
		return status, answer
	}
	_, answer := ask("/api/jobs", cookie)
	require.Contains(t, answer, "cards", "this is how it is asked for")
	for _, path := range []string{"/API/jobs", "/Api/jobs", "/api/JOBS", "/api/jobs/", "//api/jobs", "/./api/jobs",
		"/x/../api/jobs", "/%61pi/jobs", "/api%2fjobs", "/api;/jobs", "/f/../api/jobs", "/f/%2e%2e/api/jobs", "/assets/../api/jobs"} {
		t.Run(path, func(t *testing.T) {
			status, answer := ask(path, "")
			assert.NotContains(t, answer, "cards")
			assert.True(t, status >= 400 || strings.Contains(answer, "the page"), "%d %s", status, answer)
		})
	}
}

func TestARepeatedKeyOpensNothing(t *testing.T) {
	s, cookie := opened(t)
	req := request("POST", "/api/jobs", `{"customer":{"name":"secret"},"simulated":"laptop"}`)
	req.Header.Set("Cookie", cookie)
	req.Header.Set("Idempotency-Key", "the same")
	status, _, _ := do(t, s, req)
	require.Equal(t, 201, status)
	req = request("POST", "/api/jobs", `{}`)
	req.Header.Set("Idempotency-Key", "the same")
	status, body, _ := do(t, s, req)
	assert.Equal(t, 401, status)
	assert.NotContains(t, body, "secret", "an answer that is kept for repeats is not for others")
}

func TestNamesAndOrigins(t *testing.T) {
	s, cookie := opened(t)
	own, err := os.Hostname()
	require.NoError(t, err)
	for host, want := range map[string]int{elsewhere + ":7117": 200, "[2001:db8::1]:7117": 421, "localhost": 200,
		own + ":7117": 200, own + ".local": 200, "rebound.example": 421} {
		req := request("GET", "/api/clock", "")
		req.Host = host
		req.Header.Set("Cookie", cookie)
		status, _, _ := do(t, s, req)
		assert.Equal(t, want, status, host)
	}
	req := request("POST", "/api/session", `{"password":"x"}`)
	req.Host = elsewhere + ":7117"
	req.Header.Set("Origin", "http://elsewhere.example")
	status, _, _ := do(t, s, req)
	assert.Equal(t, 403, status, "nobody signs in for another page")
}

func TestWrongPasswordsAreSlowedDown(t *testing.T) {
	s, _ := opened(t)
	slowed := 0
	for range 8 {
		status, body, header := do(t, s, request("POST", "/api/session", `{"password":"guess and guess"}`))
		if status == 429 {
			slowed++
			assert.NotEmpty(t, header.Get("Retry-After"))
			assert.Contains(t, body, "wait")
		}
	}
	assert.GreaterOrEqual(t, slowed, 3)
}

// Wrong passwords from anywhere keep the owner at the bench out for a second at most, and another
// client not at all. What
// a proxy on the bench's computer passes on is not from the bench's computer.
func TestWrongPasswordsKeepNobodyElseOut(t *testing.T) {
	s, _ := opened(t)
	base, stop := listen(t, s)
	defer stop()
	try := func(password string, header map[string]string) (status int, wait string) {
		req, err := http.NewRequestWithContext(t.Context(), "POST", base+"/api/session",
			strings.NewReader(fmt.Sprintf(`{"password":%q}`, password)))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		for k, v := range header {
			req.Header.Set(k, v)
		}
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		return res.StatusCode, res.Header.Get("Retry-After")
	}
	for range 12 { // through a proxy, each with a first hop that it made up
		status, _ := try("guess and guess", map[string]string{"X-Forwarded-For": rand.Text() + ", 192.0.2.1"})
		require.Contains(t, []int{401, 403, 422, 429}, status)
	}
	status, _ := try(shopPassword, map[string]string{"X-Forwarded-For": "192.0.2.1"})
	assert.Equal(t, 429, status, "what is passed on is held up as one client")
	status, _ = try(shopPassword, map[string]string{"X-Forwarded-For": "192.0.2.2"})
	assert.Equal(t, 200, status)
	for range 20 {
		if status, wait := try("guess and guess", nil); status == 429 {
			assert.Equal(t, "1", wait, "a second at most")
		}
	}
	require.Eventually(t, func() bool { status, _ := try(shopPassword, nil); return status == 200 }, time.Hour,
		50*time.Millisecond)
}

// The first password is set from the bench's own computer; from elsewhere (the
// test's connection has no address of this computer) it is refused.
func TestTheFirstPassword(t *testing.T) {
	s := newServer(t)
	status, body, _ := do(t, s, request("PUT", "/api/password", fmt.Sprintf(`{"password":%q}`, shopPassword)))
	assert.Equal(t, 403, status, body)
	base, stop := listen(t, s)
	defer stop()
	req, err := http.NewRequest("PUT", base+"/api/password",
		strings.NewReader(fmt.Sprintf(`{"password":%q}`, shopPassword)))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, 204, res.StatusCode)
	set, err := s.o.Guard.Set(t.Context())
	require.NoError(t, err)
	assert.True(t, set)
}

func TestGuessingAWordIsSlow(t *testing.T) {
	s, _ := opened(t)
	refused := 0
	for i := range finishPerMinute + 20 {
		status, _, _ := do(t, s, request("GET", fmt.Sprintf("/f/bababa%02d", i%100), ""))
		if status == 429 {
			refused++
		}
	}
	assert.Equal(t, 20, refused)
}

func TestSigningOutEverywhere(t *testing.T) {
	s, cookie := opened(t)
	ask := func(method, path string) int {
		req := request(method, path, "")
		req.Header.Set("Cookie", cookie)
		status, _, _ := do(t, s, req)
		return status
	}
	require.Equal(t, 200, ask("GET", "/api/jobs"))
	require.Equal(t, 204, ask("DELETE", "/api/sessions"))
	assert.Equal(t, 401, ask("GET", "/api/jobs"))
}

// kept is a keeper of settings in memory.
type kept map[string]string

func (k kept) Setting(_ context.Context, name string) (string, error) {
	v, ok := k[name]
	if !ok {
		return "", store.ErrNotFound
	}
	return v, nil
}

func (k kept) SaveSetting(_ context.Context, name, body string) error {
	k[name] = body
	return nil
}

func TestTheOwnCertificate(t *testing.T) {
	var told []string
	tell := func(f string) { told = append(told, f) }
	keeper, hosts := kept{}, []string{"bench.shop.example", "203.0.113.5"}
	c, err := LoadCertificate(keeper, t.TempDir(), hosts, tell)
	require.NoError(t, err)
	again, err := LoadCertificate(keeper, t.TempDir(), hosts, tell)
	require.NoError(t, err)
	assert.Equal(t, c.Fingerprint(), again.Fingerprint(), "it is made once")
	assert.Equal(t, []string{c.Fingerprint()}, told)

	s := newServerAs(t, Options{Certificate: c, TLS: true})
	base, stop := listen(t, s)
	defer stop()
	var seen string
	client := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true,
		VerifyConnection: func(c tls.ConnectionState) error {
			sum := sha256.Sum256(c.PeerCertificates[0].Raw)
			seen = fmt.Sprintf("%X", sum)
			for _, name := range []string{"127.0.0.1", "bench.shop.example", "203.0.113.5"} {
				if err := c.PeerCertificates[0].VerifyHostname(name); err != nil {
					return err
				}
			}
			return nil
		}}}}
	res, err := client.Get(strings.Replace(base, "http://", "https://", 1) + "/api/reach")
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
	assert.Equal(t, strings.ReplaceAll(c.Fingerprint(), ":", ""), seen,
		"what people compare is what the connection shows")
	keeper[keySetting] = "spoilt"
	_, err = LoadCertificate(keeper, t.TempDir(), nil, tell)
	assert.ErrorContains(t, err, "certificate")
}

// Files of an earlier version are taken up: browsers and probes know the bench again.
func TestCertificateFilesAreTakenUp(t *testing.T) {
	before := kept{}
	c, err := LoadCertificate(before, t.TempDir(), nil, func(string) {})
	require.NoError(t, err)
	dir := t.TempDir()
	certFile, keyFile := filepath.Join(dir, "certificate.pem"), filepath.Join(dir, "certificate-key.pem")
	require.NoError(t, os.WriteFile(certFile, []byte(before[certificateSetting]), 0o600))
	require.NoError(t, os.WriteFile(keyFile, []byte(before[keySetting]), 0o600))
	after := kept{}
	again, err := LoadCertificate(after, dir, nil, func(string) { t.Error("a new one was made") })
	require.NoError(t, err)
	assert.Equal(t, c.Fingerprint(), again.Fingerprint())
	assert.Equal(t, before, after)
	for _, file := range []string{certFile, keyFile} {
		assert.NoFileExists(t, file)
	}
	require.NoError(t, os.WriteFile(certFile, []byte("spoilt"), 0o600))
	require.NoError(t, os.WriteFile(keyFile, []byte("spoilt"), 0o600))
	_, err = LoadCertificate(after, dir, nil, func(string) {})
	assert.ErrorContains(t, err, "remove "+certFile, "it says what to do")
}

// It is made again when this computer's addresses change, and before it runs out, while
// it serves. Its key stays: probes that joined know the bench again.
func TestTheCertificateIsRenewed(t *testing.T) {
	made := 0
	keeper := kept{}
	c, err := LoadCertificate(keeper, t.TempDir(), nil, func(string) { made++ })
	require.NoError(t, err)
	now, pin, first := time.Now(), c.Pin(), c.Fingerprint()
	c.now = func() time.Time { return now }
	hello := func() {
		_, err := c.TLS().GetCertificate(nil)
		require.NoError(t, err)
	}
	hello()
	require.Equal(t, 1, made)
	c.own = func() []net.IP { return []net.IP{net.IPv4(203, 0, 113, 9)} }
	now = now.Add(2 * lookEvery)
	hello()
	require.Equal(t, 2, made, "another address")
	require.NoError(t, c.leaf.VerifyHostname("203.0.113.9"))
	now = now.Add(2 * lookEvery)
	hello()
	require.Equal(t, 2, made)
	now = now.Add(lasts - renewBefore + time.Hour)
	hello()
	require.Equal(t, 3, made, "it would run out")
	assert.NotEqual(t, first, c.Fingerprint())
	assert.Equal(t, pin, c.Pin())
	loaded, err := LoadCertificate(keeper, t.TempDir(), nil, func(string) {})
	require.NoError(t, err)
	assert.Equal(t, pin, loaded.Pin(), "after a restart, too")
}

func TestAFinishLineIsOpenedBySomebodyWhoSees(t *testing.T) {
	s := newServer(t)
	ctx := t.Context()
	v, err := s.desk.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: "x"}, Simulated: "laptop"})
	require.NoError(t, err)
	_, err = s.desk.Sittings.Sit(ctx, nil, v.ID, "then", bench.Conditions{})
	require.NoError(t, err)
	timer, err := s.desk.Timers.Arm(ctx, nil, v.ID, "t-start", "s1", "")
	require.NoError(t, err)
	_, err = s.desk.Timers.Press(ctx, nil, v.ID, timing.Press{Key: "a", AtMS: s.desk.Jobs.NowMS()})
	require.NoError(t, err)
	for name, ask := range map[string]func(*http.Request){
		"a look whether it answers":   func(r *http.Request) { r.Method = "HEAD" },
		"a browser's guess":           func(r *http.Request) { r.Header.Set("Sec-Purpose", "prefetch;prerender") },
		"an older browser's guess":    func(r *http.Request) { r.Header.Set("Purpose", "prefetch") },
		"a small picture of the page": func(r *http.Request) { r.Header.Set("X-Purpose", "preview") },
	} {
		req := request("GET", timer.Finish, "")
		ask(req)
		status, body, _ := do(t, s, req)
		assert.Equal(t, 204, status, name)
		assert.Empty(t, body, name)
	}
	timer, err = s.desk.Timers.Timer(ctx, v.ID)
	require.NoError(t, err)
	require.Equal(t, stopwatch.Running, timer.State)
	status, body, _ := do(t, s, request("GET", timer.Finish, ""))
	assert.Equal(t, 200, status)
	assert.Contains(t, body, "From the start to this page")
}
