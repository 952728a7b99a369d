package probe

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/order"
)

// bench answers what a probe says with a status, and notes it.
func bench(t *testing.T, status func(n int, body string) int) (*Bench, *[]string) {
	t.Helper()
	var said []string
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		b := make([]byte, r.ContentLength)
		_, _ = r.Body.Read(b)
		said = append(said, strings.TrimPrefix(r.URL.Path, "/api/probe/")+" "+string(b))
		problem(w, status(len(said), string(b)))
	}))
	t.Cleanup(s.Close)
	b, err := NewBench(s.URL, "token")
	require.NoError(t, err)
	return b, &said
}

// problem answers with a status; an error is a problem as a bench words it.
func problem(w http.ResponseWriter, status int) {
	names := map[int]string{401: "sign-in", 426: "join-again", 403: "forbidden", 404: "missing", 409: "conflict",
		421: "address", 422: "invalid", 429: "too-many", 500: "failed", 503: "failed"}
	if name := names[status]; name != "" {
		w.Header().Set("Content-Type", "application/problem+json")
		w.WriteHeader(status)
		fmt.Fprintf(w, `{"type":%q,"status":%d,"detail":"No."}`, problemPrefix+name, status)
		return
	}
	w.WriteHeader(status)
}

// Only a final problem of a real bench ends anything. With any other answer, the message stays and is sent
// again.
func TestWhoeverAnswersInItsPlace(t *testing.T) {
	page := func(status int, kind, body string) http.HandlerFunc {
		return func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", kind)
			w.WriteHeader(status)
			_, _ = w.Write([]byte(body))
		}
	}
	answers := map[string]http.HandlerFunc{
		"a page that says fine":        page(200, "text/html", "<h1>It works</h1>"),
		"a portal's sign-in":           page(200, "text/html", "<form>"),
		"nothing":                      page(200, "text/plain", ""),
		"somebody else's problem":      page(404, "application/problem+json", `{"type":"about:blank","detail":"no"}`),
		"a problem that is no problem": page(422, "text/html", `{"type":"urn:nowthen:problem:invalid"}`),
		"a cut problem":                page(422, "application/problem+json", `{"type":"urn:nowthen:pro`),
		"a redirect":                   page(302, "text/html", ""),
	}
	for _, status := range []int{400, 401, 403, 404, 405, 407, 409, 410, 413, 415, 421, 422, 429, 451, 500, 502} {
		answers[fmt.Sprint("a bare ", status)] = page(status, "text/html", "no")
	}
	for _, name := range []string{"address", "forbidden", "method", "media-type", "too-many", "failed", "damaged",
		"stale"} {
		answers["a bench's "+name] = page(421, "application/problem+json",
			`{"type":"urn:nowthen:problem:`+name+`","detail":"no"}`)
	}
	for name, h := range answers {
		t.Run(name, func(t *testing.T) {
			s := httptest.NewServer(h)
			defer s.Close()
			b, err := NewBench(s.URL, "token")
			require.NoError(t, err)
			o, err := OpenOutbox(t.TempDir())
			require.NoError(t, err)
			require.NoError(t, o.Put("runs", "x"))
			err = o.Send(t.Context(), b, never(t))
			require.Error(t, err)
			assert.NotErrorIs(t, err, ErrLetGo)
			var no *RefusedError
			assert.NotErrorAs(t, err, &no)
			assert.Equal(t, 1, o.Len())
			_, err = b.Work(t.Context(), "")
			assert.NotErrorAs(t, err, &no)
			assert.NotErrorIs(t, err, ErrLetGo)
		})
	}
}

func never(t *testing.T) func(string, error) {
	return func(path string, err error) { t.Errorf("%s was refused: %v", path, err) }
}

func TestTheOutboxSendsInOrderAndForgetsWhatIsConfirmed(t *testing.T) {
	dir := t.TempDir()
	o, err := OpenOutbox(dir)
	require.NoError(t, err)
	for _, s := range []string{"a", "b", "c"} {
		require.NoError(t, o.Put("runs", s))
	}
	// Another start, whose clock is an hour behind, puts one more in.
	o, err = OpenOutbox(dir)
	require.NoError(t, err)
	require.NoError(t, o.Put("ended", "d"))
	b, said := bench(t, func(n int, _ string) int {
		if n == 2 {
			return 503 // it is just being restarted
		}
		return 204
	})
	require.Error(t, o.Send(context.Background(), b, never(t)))
	assert.Equal(t, 3, o.Len(), "what was not confirmed stays")
	require.NoError(t, o.Send(context.Background(), b, never(t)))
	assert.Equal(t, []string{`runs "a"`, `runs "b"`, `runs "b"`, `runs "c"`, `ended "d"`}, *said)
	assert.Zero(t, o.Len())
}

func TestWhatTheBenchRefusesIsKeptBeside(t *testing.T) {
	dir := t.TempDir()
	o, err := OpenOutbox(dir)
	require.NoError(t, err)
	require.NoError(t, o.Put("runs", "bad"))
	// cut off by a full drive
	require.NoError(t, os.WriteFile(filepath.Join(dir, "00000000000000000000000000.json"), []byte(`{"what":"ru`),
		0o600))
	require.NoError(t, o.Put("runs", "good"))
	b, said := bench(t, func(_ int, body string) int {
		if strings.Contains(body, "bad") {
			return 422
		}
		return 204
	})
	var refused []string
	require.NoError(t, o.Send(context.Background(), b, func(path string, err error) {
		refused = append(refused, filepath.Base(path))
	}))
	assert.Equal(t, []string{`runs "bad"`, `runs "good"`}, *said, "the next one is sent all the same")
	assert.Len(t, refused, 2)
	for _, name := range refused {
		_, err := os.Stat(filepath.Join(dir, name))
		assert.NoError(t, err, "it is kept")
	}
	assert.Zero(t, o.Len(), "it is not sent again and again")
}

func TestATokenThatIsNotKnownKeepsWhatWaits(t *testing.T) {
	o, err := OpenOutbox(t.TempDir())
	require.NoError(t, err)
	require.NoError(t, o.Put("runs", "x"))
	b, _ := bench(t, func(int, string) int { return 401 })
	assert.ErrorIs(t, o.Send(context.Background(), b, never(t)), ErrLetGo)
	assert.Equal(t, 1, o.Len())
}

func TestAFolderThatCannotBeWritten(t *testing.T) {
	file := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(file, nil, 0o600))
	_, err := OpenOutbox(filepath.Join(file, "outbox"))
	assert.ErrorContains(t, err, "unsent results")
	o, err := OpenOutbox(t.TempDir())
	require.NoError(t, err)
	require.NoError(t, os.RemoveAll(o.dir))
	assert.ErrorContains(t, o.Put("runs", "x"), "storing a result")
}

func TestAddresses(t *testing.T) {
	pin := strings.Repeat("ab", 10)
	for address, fine := range map[string]bool{
		"http://127.0.0.1:7117": true, "http://127.0.0.1:7117/": true, "http://localhost:7117": true, "http://[::1]:7117": true,
		"https://bench.local:7118#" + pin: true, "https://192.0.2.10:7118#" +
			strings.ToUpper(pin): true, "https://127.0.0.1:7118#" + strings.Repeat(pin, 3): true,
		"http://192.0.2.10:7117": false, "http://bench.local:7117": false, "http://127.0.0.1.example:7117": false, "http://0.0.0.0:7117": false,
		"https://192.0.2.10:7118": false, "https://192.0.2.10:7118#": false, "https://me@192.0.2.10:7118#" + pin: false,
		"127.0.0.1:7117": false, "ftp://x": false, "http://": false, "http://127.0.0.1/path": false, "https://x?a=b#" +
			pin: false,
		"https://x#abcd": false, "http://127.0.0.1#" + pin: false, "https://x#" + strings.Repeat("zz", 32): false,
	} {
		_, err := NewBench(address, "")
		assert.Equal(t, fine, err == nil, "%s: %v", address, err)
	}
}

// A name for this computer that leads to another is not followed.
func TestPlainHTTPStaysOnThisComputer(t *testing.T) {
	assert.NoError(t, onlyHere("tcp", "127.0.0.1:7117", nil))
	assert.NoError(t, onlyHere("tcp", "[::1]:7117", nil))
	for _, address := range []string{"192.0.2.10:7117", "[2001:db8::1]:7117", "bench:7117", "nothing"} {
		assert.Error(t, onlyHere("tcp", address, nil), address)
	}
}

// The key that the line names is taken, and no other; a connection that is taken up again is checked too.
func TestTheKeyIsPinned(t *testing.T) {
	s := httptest.NewTLSServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(204) }))
	defer s.Close()
	good, err := NewBench(s.URL+"#"+order.Pin(s.Certificate().RawSubjectPublicKeyInfo), "t")
	require.NoError(t, err)
	assert.NoError(t, good.Say(t.Context(), "progress", 1))
	for name, pin := range map[string]string{"another key": strings.Repeat("00", 32),
		"the certificate's": order.Pin(s.Certificate().Raw)} {
		other, err := NewBench(s.URL+"#"+pin, "t")
		require.NoError(t, err)
		assert.ErrorIs(t, other.Say(t.Context(), "progress", 1), errOtherKey, name)
	}
}

// A probe that joined before benches were known by their keys asks to be joined again and keeps what it has,
// and so does one whose bench wants it.
func TestAProbeFromBeforeJoinsAgain(t *testing.T) {
	for name, tt := range map[string]struct {
		address string
		again   bool
	}{
		"over plain HTTP":   {"http://192.0.2.10:7117", true},
		"by a certificate":  {"https://192.0.2.10:7117#" + strings.Repeat("ab", 32), true},
		"on this computer":  {"http://127.0.0.1:7117", false},
		"an address of sun": {"sun", true},
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			box, err := OpenOutbox(filepath.Join(dir, outboxDir))
			require.NoError(t, err)
			require.NoError(t, box.Put("runs", "measured"))
			text := fmt.Sprintf(`{"address": %q, "token": "t", "job": "2031-0001", "machine": "0123456789abcdef01234567"}`, tt.address)
			require.NoError(t, os.WriteFile(filepath.Join(dir, joinedFile), []byte(text), 0o600))
			_, err = Again(idle{}, dir, Options{})
			assert.Equal(t, tt.again, errors.Is(err, ErrJoinAgain), "%v", err)
			assert.Equal(t, 1, box.Len(), "results are kept")
		})
	}
	b, said := bench(t, func(int, string) int { return 426 })
	j, err := open(idle{}, b, t.TempDir(), Options{})
	require.NoError(t, err)
	require.NoError(t, j.put("runs", "measured"))
	err = j.Run(t.Context())
	assert.ErrorIs(t, err, ErrJoinAgain)
	assert.ErrorContains(t, err, "kept in")
	assert.Len(t, *said, 1, "it does not ask again and again")
	assert.Equal(t, 1, j.outbox.Len())
}

// What one job has not confirmed never reaches another, and is there when the computer joins the first again.
func TestTheOutboxBelongsToAJob(t *testing.T) {
	o, err := OpenOutbox(filepath.Join(t.TempDir(), outboxDir))
	require.NoError(t, err)
	require.NoError(t, o.Put("runs", "of the first"))
	require.NoError(t, o.changeJob("2031-0001", "2031-0001"))
	require.Equal(t, 1, o.Len(), "the same job")
	require.NoError(t, o.changeJob("2031-0001", "2031-0002"))
	require.Zero(t, o.Len())
	require.NoError(t, o.Put("runs", "of the second"))
	require.NoError(t, o.changeJob("2031-0002", "../../x"))
	require.Zero(t, o.Len())
	require.NoError(t, o.Put("runs", "of neither"))
	require.NoError(t, o.changeJob("../../x", "2031-0001"))
	require.Equal(t, 1, o.Len())
	b, said := bench(t, func(int, string) int { return 200 })
	require.NoError(t, o.Send(t.Context(), b, never(t)))
	assert.Equal(t, []string{`runs "of the first"`}, *said)
	entries, err := os.ReadDir(filepath.Dir(o.dir))
	require.NoError(t, err)
	assert.Len(t, entries, 3, "the other two wait, beside it")
}
