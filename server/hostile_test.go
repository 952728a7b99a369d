package server

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/access/slow"
	"nowthen/backup"
	"nowthen/store"
)

// keyed sends a command with a key of its own.
func keyed(method, path, body, key, cookie string) *http.Request {
	req := request(method, path, body)
	req.Header.Set("Idempotency-Key", key)
	if cookie != "" {
		req.Header.Set("Cookie", cookie)
	}
	return req
}

// What a key was done for is known after a restart; on another route or with another
// body the same key is refused, and nobody is answered what another caller did.
func TestAKeyIsOneCommandOfOneCaller(t *testing.T) {
	dir := t.TempDir()
	s := newServerOver(t, dir, Options{})
	const laptop = `{"customer":{"name":"once"},"simulated":"laptop"}`
	status, first, header := do(t, s, keyed("POST", "/api/jobs", laptop, "k1", ""))
	require.Equal(t, 201, status, first)
	location := header.Get("Location")
	assert.Equal(t, "/api/jobs/"+field(t, []byte(first), "id").(string), location)

	again := newServerOver(t, dir, Options{})
	status, second, header := do(t, again, keyed("POST", "/api/jobs", laptop, "k1", ""))
	require.Equal(t, 201, status, second)
	assert.Equal(t, field(t, []byte(first), "id"), field(t, []byte(second), "id"), "the answer of before the restart")
	assert.Equal(t, location, header.Get("Location"))

	status, body, _ := do(t, again, keyed("POST", "/api/jobs", strings.Replace(laptop, "once", "other", 1), "k1", ""))
	assert.Equal(t, 422, status, "another body: %s", body)
	status, body, _ = do(t, again, keyed("PATCH", location, `{"reason":"slow"}`, "k1", ""))
	require.Equal(t, 200, status, body)
	assert.Equal(t, "slow", field(t, []byte(body), "job", "job", "reason"),
		"a key is one of its route: this is another command")
	status, body, _ = do(t, again, request("GET", "/api/jobs?q=once", ""))
	require.Equal(t, 200, status)
	var board struct{ Cards []struct{ ID string } }
	require.NoError(t, json.Unmarshal([]byte(body), &board))
	assert.Len(t, board.Cards, 1, "one job was made")
}

// A key that a signed-in browser used answers another browser nothing.
func TestAKeyOfAnotherSession(t *testing.T) {
	s, cookie := opened(t)
	status, body, _ := do(t, s,
		keyed("POST", "/api/jobs", `{"customer":{"name":"mine"},"simulated":"laptop"}`, "k", cookie))
	require.Equal(t, 201, status)
	mine := field(t, []byte(body), "id")
	status, body, header := do(t, s,
		keyed("POST", "/api/session", fmt.Sprintf(`{"password":%q}`, shopPassword), "k", ""))
	require.Equal(t, 200, status, body)
	other, _, _ := strings.Cut(header.Get("Set-Cookie"), ";")
	require.NotEmpty(t, other)
	assert.NotEqual(t, cookie, other, "signing in with a known key gives a session of its own")
	status, body, _ = do(t, s,
		keyed("POST", "/api/jobs", `{"customer":{"name":"theirs"},"simulated":"laptop"}`, "k", other))
	require.Equal(t, 201, status, body)
	assert.NotEqual(t, mine, field(t, []byte(body), "id"))
}

// Intakes at once get numbers of their own.
func TestIntakesAtOnce(t *testing.T) {
	s := newServerOver(t, t.TempDir(), Options{})
	base, stop := listen(t, s)
	defer stop()
	const n = 24
	numbers, all := make([]string, n), sync.WaitGroup{}
	for i := range n {
		all.Go(func() {
			res, err := http.Post(base+"/api/jobs", "application/json",
				strings.NewReader(`{"customer":{"name":"x"},"simulated":"laptop"}`))
			if !assert.NoError(t, err) {
				return
			}
			defer res.Body.Close()
			body, err := io.ReadAll(res.Body)
			if assert.NoError(t, err) && assert.Equal(t, 201, res.StatusCode, string(body)) {
				numbers[i] = field(t, body, "job", "job", "number").(string)
			}
		})
	}
	all.Wait()
	seen := map[string]bool{}
	for _, number := range numbers {
		assert.False(t, seen[number], "%s twice", number)
		seen[number] = true
	}
}

// A change that is meant for an earlier state is refused, and the state told.
func TestAChangeMeantForAnEarlierState(t *testing.T) {
	s := newServerOver(t, t.TempDir(), Options{})
	_, body, _ := do(t, s, request("POST", "/api/jobs", `{"customer":{"name":"x"},"simulated":"laptop"}`))
	path := "/api/jobs/" + field(t, []byte(body), "id").(string)
	_, _, header := do(t, s, request("GET", path, ""))
	seen := header.Get("ETag")
	require.Regexp(t, `^"[0-9]+"$`, seen)
	change := func(reason, match string) (int, string) {
		req := request("PATCH", path, fmt.Sprintf(`{"reason":%q}`, reason))
		req.Header.Set("If-Match", match)
		status, body, _ := do(t, s, req)
		return status, body
	}
	status, body := change("first", seen)
	require.Equal(t, 200, status, body)
	status, body = change("second", seen)
	assert.Equal(t, 412, status, body)
	assert.Contains(t, body, "urn:nowthen:problem:")
	status, body = change("third", "*")
	assert.Equal(t, 200, status, body)
}

// A misspelt member is refused and changes nothing.
func TestMisspeltMembers(t *testing.T) {
	s := newServerOver(t, t.TempDir(), Options{})
	_, body, _ := do(t, s, request("POST", "/api/jobs", `{"customer":{"name":"x"},"simulated":"laptop"}`))
	path := "/api/jobs/" + field(t, []byte(body), "id").(string)
	for route, body := range map[string]string{
		"POST /api/jobs":              `{"customer":{"name":"y","phone_numbr":"1"},"simulated":"laptop"}`,
		"PATCH " + path:               `{"raeson":"slow"}`,
		"POST " + path + "/sittings":  `{"setup":"then","conditions":{"powr":"mains"}}`,
		"PATCH " + path + "/plan":     `{"test":[]}`,
		"PUT " + path + "/timer":      `{"test":"t-start","siting":"s1"}`,
		"POST " + path + "/measuring": `{"sitting":"s1","run":3}`,
		"POST " + path + "/work":      `{"what":"cleaning","nota":"x"}`,
	} {
		method, at, _ := strings.Cut(route, " ")
		before := func() string { _, b, _ := do(t, s, request("GET", path, "")); return b }
		was := before()
		status, answer, header := do(t, s, request(method, at, body))
		assert.Contains(t, []int{400, 422}, status, "%s: %s", route, answer)
		assert.Equal(t, "application/problem+json", header.Get("Content-Type"), route)
		assert.Equal(t, was, before(), route)
	}
}

// Clips play from a data folder of whatever name.
func TestClipsUnderAnOddPath(t *testing.T) {
	for _, name := range []string{"data#1", "100%", "what?", "a%20b & c;d"} {
		t.Run(name, func(t *testing.T) {
			dir := filepath.Join(t.TempDir(), name)
			made, err := demonstration()
			require.NoError(t, err)
			require.NoError(t, os.CopyFS(dir, os.DirFS(made)))
			s := newServerOver(t, dir, Options{})
			_, body, _ := do(t, s, request("GET", "/api/jobs?state=finished", ""))
			var board struct{ Cards []struct{ ID string } }
			require.NoError(t, json.Unmarshal([]byte(body), &board))
			path := "/api/jobs/" + board.Cards[0].ID + "/clips"
			_, body, _ = do(t, s, request("GET", path, ""))
			var clips struct{ Clips []struct{ ID string } }
			require.NoError(t, json.Unmarshal([]byte(body), &clips))
			require.NotEmpty(t, clips.Clips)
			file := request("GET", path+"/"+clips.Clips[0].ID+"/file", "")
			file.Header.Set("Range", "bytes=0-3")
			status, body, header := do(t, s, file)
			assert.Equal(t, 206, status)
			assert.Equal(t, "\x1a\x45\xdf\xa3", body, "a WebM begins so")
			assert.Equal(t, "video/webm", header.Get("Content-Type"))
		})
	}
}

// Bodies of callers that are not signed in are not read.
func TestBodiesWithoutASession(t *testing.T) {
	s, _ := opened(t)
	assert.Less(t, bodiesWithoutASession(t, s), 20.0, "MB")
}

// BenchmarkBodies reports by how much the memory rises while six bodies of 60 MB come
// in without a session.
func BenchmarkBodies(b *testing.B) {
	dir := b.TempDir()
	s := newServerOver(b, dir, Options{Open: true})
	require.NoError(b, s.o.Guard.SetPassword(b.Context(), shopPassword))
	for b.Loop() {
		b.ReportMetric(bodiesWithoutASession(b, s), "MB-more")
	}
	b.ReportMetric(20, "MB-must")
	b.ReportMetric(0, "ns/op")
}

func bodiesWithoutASession(tb testing.TB, s *Server) (more float64) {
	base, stop := listen(tb, s)
	defer stop()
	addr := strings.TrimPrefix(base, "http://")
	memory := func() float64 {
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		return float64(m.HeapAlloc+m.StackInuse) / 1e6
	}
	runtime.GC()
	before := memory()
	block := bytes.Repeat([]byte("x"), 64<<10)
	var all sync.WaitGroup
	var refused atomic.Int64
	most, done := 0.0, make(chan struct{})
	go func() {
		defer close(done)
		for range 200 {
			if most = max(most, memory()); s.ctx.Err() != nil {
				return
			}
			runtime.Gosched()
		}
	}()
	for range 6 {
		all.Go(func() {
			c, err := net.Dial("tcp", addr)
			if !assert.NoError(tb, err) {
				return
			}
			defer c.Close()
			_, _ = fmt.Fprintf(c,
				"POST /api/import HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: "+
					"%d\r\n\r\n", 60_000_000)
			answer := make(chan string, 1)
			go func() {
				b := make([]byte, 64)
				n, _ := c.Read(b)
				answer <- string(b[:n])
			}()
			for range 60_000_000 / len(block) {
				_ = c.SetWriteDeadline(time.Now().Add(2 * time.Second))
				if _, err := c.Write(block); err != nil {
					break // it was turned away, as it should be
				}
			}
			if got := <-answer; got != "" { // the connection may be cut before the answer is read
				assert.Contains(tb, got, " 401 ")
				refused.Add(1)
			}
		})
	}
	all.Wait()
	<-done
	assert.Positive(tb, refused.Load(), "somebody was told why")
	return most - before
}

// The first refusal of something says what was kept and what to do.
func TestProblemsAreWhole(t *testing.T) {
	s := newServerOver(t, t.TempDir(), Options{})
	for route, want := range map[string]int{
		"GET /api/jobs/none":           404,
		"GET /api/jobs/none/timer":     404,
		"GET /api/jobs/none/measuring": 404,
		"GET /api/jobs/none/clips":     404,
		"DELETE /api/jobs":             405,
		"PUT /api/jobs":                405,
		"GET /api/nothing":             404,
	} {
		method, path, _ := strings.Cut(route, " ")
		status, body, header := do(t, s, request(method, path, ""))
		assert.Equal(t, want, status, "%s: %s", route, body)
		assert.Equal(t, "application/problem+json", header.Get("Content-Type"), route)
		for _, member := range []string{"type", "title", "status", "detail"} {
			assert.NotEmpty(t, field(t, []byte(body), member), "%s: %s", route, member)
		}
		if want == 405 {
			assert.NotEmpty(t, header.Get("Allow"), route)
		}
	}
	req := request("POST", "/api/jobs", `{}`)
	req.Header.Set("Content-Type", "text/plain")
	status, _, _ := do(t, s, req)
	assert.Equal(t, 415, status)
}

// Where the data's drive is full it is said so, and what to do.
func TestADriveThatIsFull(t *testing.T) {
	db, err := sql.Open("sqlite", filepath.Join(t.TempDir(), "small.db"))
	require.NoError(t, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	_, err = db.Exec("CREATE TABLE t (b BLOB); PRAGMA max_page_count = 8")
	require.NoError(t, err)
	_, err = db.Exec("INSERT INTO t VALUES (zeroblob(1000000))")
	require.Error(t, err, "SQLite has as many pages as it may have")
	s := newServerOver(t, t.TempDir(), Options{})
	s.app.Post("/fill", func(fiber.Ctx) error { return fmt.Errorf("storing it: %w", err) })
	status, body, _ := do(t, s, request("POST", "/fill", "{}"))
	assert.Equal(t, 500, status)
	assert.Contains(t, body, "is full")
	assert.Contains(t, field(t, []byte(body), "do"), "Free some space")
	assert.True(t, store.IsFull(&os.PathError{Op: "write", Err: syscall.ENOSPC}))
	assert.False(t, store.IsFull(os.ErrNotExist))
}

// No secret is stored with an answer: a repeated command is answered without it.
func TestARepeatIsToldNoSecret(t *testing.T) {
	s := newServer(t)
	_, board, _ := do(t, s, request("GET", "/api/jobs?state=all", ""))
	var id string
	for i := range len(field(t, []byte(board), "cards").([]any)) {
		job := field(t, []byte(board), "cards", strconv.Itoa(i), "id").(string)
		if status, _, _ := do(t, s, request("POST", "/api/jobs/"+job+"/report", "")); status == 201 {
			id = job
		}
	}
	require.NotEmpty(t, id, "no report could be issued")
	for path, member := range map[string]string{"/shares": "token", "/pairing": "code"} {
		body := map[string]string{"/shares": `{"days":7}`}[path]
		status, first, _ := do(t, s, keyed("POST", "/api/jobs/"+id+path, body, "k", ""))
		require.Equal(t, 201, status, first)
		secret := field(t, []byte(first), member).(string)
		require.NotEmpty(t, secret)
		status, again, _ := do(t, s, keyed("POST", "/api/jobs/"+id+path, body, "k", ""))
		require.Equal(t, 201, status, again)
		assert.Empty(t, field(t, []byte(again), member))
		assert.NotContains(t, again, secret)
		if path == "/shares" {
			assert.Equal(t, field(t, []byte(first), "id"), field(t, []byte(again), "id"), "it is the same one")
		}
		raw, err := os.ReadFile(filepath.Join(s.o.Backups.Data, backup.Database))
		require.NoError(t, err)
		wal, _ := os.ReadFile(filepath.Join(s.o.Backups.Data, backup.Database+"-wal"))
		assert.NotContains(t, string(raw)+string(wal), secret, "it stands nowhere in the database")
	}
}

// A command that is sent again after a new sign-in is still done once: its key belongs to the device.
func TestAKeyOutlivesTheSession(t *testing.T) {
	s, first := opened(t)
	_, _, header := do(t, s, request("GET", "/api/session", ""))
	device, _, _ := strings.Cut(header.Get("Set-Cookie"), ";")
	require.True(t, strings.HasPrefix(device, deviceCookie+"="), header)
	send := func(session string) (int, string) {
		req := keyed("POST", "/api/jobs", `{"customer":{"name":"once"},"old_drive":{"kind":"hdd"}}`, "k", "")
		req.Header.Set("Cookie", session+"; "+device)
		status, body, _ := do(t, s, req)
		return status, body
	}
	status, made := send(first)
	require.Equal(t, 201, status, made)
	require.NoError(t, s.o.Guard.EndAll(t.Context()))
	status, _ = send(first)
	require.Equal(t, 401, status)
	secret, err := s.o.Guard.SignIn(t.Context(), shopPassword, slow.Client{Key: "x"})
	require.NoError(t, err)
	status, again := send(sessionCookie + "=" + secret)
	require.Equal(t, 201, status, again)
	assert.Equal(t, field(t, []byte(made), "id"), field(t, []byte(again), "id"))
}
