package server

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"nowthen/core/order"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"sort"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/access"
	"nowthen/backup"
	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/visit"
	"nowthen/machine"
	"nowthen/store"
)

// contract is a server whose every answer is checked against api/openapi.yaml.
type contract struct {
	token  string // of the probe that asks, or ""
	t      *testing.T
	s      *Server
	router routers.Router
	seen   map[string]bool // operations that were asked
	made   string          // where what was made last is found
}

func newServer(t testing.TB) *Server { return newServerAs(t, Options{}) }

// demonstration is a data folder with the made-up jobs and clips, made once.
var demonstration = sync.OnceValues(func() (string, error) {
	dir, err := os.MkdirTemp("", "nowthen-server-test-")
	if err != nil {
		return "", err
	}
	demoDir = dir
	// A program of its own, without the race detector: with it, measuring the demonstration's
	// drives took half a minute.
	make := exec.Command("go", "run", "nowthen/scripts/demo", dir)
	if said, err := make.CombinedOutput(); err != nil {
		return dir, fmt.Errorf("making the demonstration: %w: %s", err, said)
	}
	return dir, nil
})

var demoDir string // where it lies, once it is made

func TestMain(m *testing.M) {
	code := m.Run()
	if demoDir != "" {
		_ = os.RemoveAll(demoDir)
	}
	os.Exit(code)
}

// newServerAs is a server that is reached in a certain way.
func newServerAs(t testing.TB, o Options) *Server {
	t.Helper()
	made, err := demonstration()
	require.NoError(t, err)
	dir := t.TempDir()
	require.NoError(t, os.CopyFS(dir, os.DirFS(made)))
	return newServerOver(t, dir, o)
}

// elsewhere is an address that tests take for the bench's own.
const elsewhere = "192.0.2.7"

// newServerOver is a server over a data folder.
func newServerOver(t testing.TB, dir string, o Options) *Server {
	t.Helper()
	st, err := store.Open(filepath.Join(dir, backup.Database), store.Options{Migrate: true})
	require.NoError(t, err)
	d := desk.New(st, desk.Options{Clips: filepath.Join(dir, backup.Clips)})
	require.NoError(t, d.Start(t.Context()))
	t.Cleanup(func() { desktest.Close(t, d); _ = st.Close() })
	front := fstest.MapFS{"index.html": {Data: []byte("<!doctype html>the page")}, "assets/x.js": {Data: []byte("1")}}
	o.Guard = access.New(st)
	o.Hosts = append(o.Hosts, elsewhere)
	o.Backups = &backup.Daily{DB: st, Data: dir, Log: slog.New(slog.DiscardHandler), Free: machine.Free}
	return New(d, st, front, slog.New(slog.DiscardHandler), o)
}

func load(t testing.TB) *openapi3.T {
	t.Helper()
	doc, err := openapi3.NewLoader().LoadFromFile("../api/openapi.yaml")
	require.NoError(t, err)
	require.NoError(t, doc.Validate(t.Context()))
	shut(doc)
	return doc
}

// shut lets objects of the contract have the members that it names and no others,
// unless it says of what kind further ones are. The contract itself leaves answers
// open: a client must not mind a member that a later version adds.
func shut(doc *openapi3.T) {
	seen := map[*openapi3.Schema]bool{}
	var all func(ref *openapi3.SchemaRef)
	all = func(ref *openapi3.SchemaRef) {
		if ref == nil || ref.Value == nil {
			return
		}
		if len(ref.Value.AllOf) > 0 {
			ref.Value, ref.Ref = merged(ref.Value), ""
		}
		s := ref.Value
		if seen[s] {
			return
		}
		seen[s] = true
		for _, p := range s.Properties {
			all(p)
		}
		all(s.Items)
		all(s.AdditionalProperties.Schema)
		for _, list := range [][]*openapi3.SchemaRef{s.OneOf, s.AnyOf} {
			for _, p := range list {
				all(p)
			}
		}
		if len(s.Properties) > 0 && s.AdditionalProperties.Has == nil && s.AdditionalProperties.Schema == nil {
			no := false
			s.AdditionalProperties.Has = &no
		}
	}
	for _, s := range doc.Components.Schemas {
		all(s)
	}
	for _, item := range doc.Paths.Map() {
		for _, op := range item.Operations() {
			for _, r := range op.Responses.Map() {
				for _, m := range r.Value.Content {
					all(m.Schema)
				}
			}
		}
	}
}

// merged is a schema with the members of all that it is made of.
func merged(s *openapi3.Schema) *openapi3.Schema {
	m := *s
	m.AllOf, m.Properties, m.Required = nil, openapi3.Schemas{}, slices.Clone(s.Required)
	parts := []*openapi3.Schema{s}
	for _, p := range s.AllOf {
		parts = append(parts, p.Value)
	}
	for _, p := range parts {
		if p != s && len(p.AllOf) > 0 {
			p = merged(p)
		}
		for name, of := range p.Properties {
			m.Properties[name] = of
		}
		if p != s {
			m.Required = append(m.Required, p.Required...)
			if p.AdditionalProperties.Has != nil || p.AdditionalProperties.Schema != nil {
				m.AdditionalProperties = p.AdditionalProperties
			}
		}
		if m.Type == nil {
			m.Type = p.Type
		}
	}
	return &m
}

func newContract(t *testing.T) *contract {
	openapi3filter.RegisterBodyDecoder("text/html", openapi3filter.PlainBodyDecoder)
	openapi3filter.RegisterBodyDecoder("video/webm", openapi3filter.FileBodyDecoder)
	openapi3filter.RegisterBodyDecoder("application/pdf", openapi3filter.FileBodyDecoder)
	openapi3filter.RegisterBodyDecoder("image/gif", openapi3filter.FileBodyDecoder)
	openapi3filter.RegisterBodyDecoder("image/png", openapi3filter.FileBodyDecoder)
	router, err := gorillamux.NewRouter(load(t))
	require.NoError(t, err)
	openapi3filter.RegisterBodyDecoder("application/problem+json", openapi3filter.JSONBodyDecoder)
	return &contract{t: t, s: newServer(t), router: router, seen: map[string]bool{}}
}

func request(method, path, body string) *http.Request {
	req := httptest.NewRequest(method, path, strings.NewReader(body))
	req.Host = "127.0.0.1"
	if body != "" {
		req.Header.Set("Content-Type", "application/json")
	}
	return req
}

// pricesAsJSON asks for the price list as JSON: its table is for people.
func pricesAsJSON(t *testing.T, c *contract) {
	t.Helper()
	req := request("GET", "/api/settings/prices", "")
	req.Header.Set("Accept", "application/json")
	res, err := c.s.app.Test(req, fiber.TestConfig{Timeout: 30 * time.Second})
	require.NoError(t, err)
	defer res.Body.Close()
	var prices []struct{ Model, Price string }
	require.NoError(t, json.NewDecoder(res.Body).Decode(&prices))
	require.Len(t, prices, 1)
	assert.Equal(t, []string{"N1", "79.00"}, []string{prices[0].Model, prices[0].Price})
}

// ask sends a request and checks status and body against the contract. A
// request that is meant to be wrong is not checked itself.
func (c *contract) ask(method, path, body string, want int) (answer []byte) {
	c.t.Helper()
	req := request(method, path, body)
	if strings.HasPrefix(path, "/api/jobs/import") || strings.Contains(path, "/photos?") ||
		strings.Contains(path, "/sitting-file") || strings.Contains(path, "/table") ||
		strings.Contains(path, "/stills") || strings.Contains(path, "/bytes") {
		req.Header.Set("Content-Type", "application/octet-stream")
	}
	if path == "/api/settings/prices" {
		req.Header.Set("Content-Type", "text/csv")
	}
	if c.token != "" {
		req.Header.Set("Authorization", "Bearer "+c.token)
	}
	route, params, err := c.router.FindRoute(req)
	require.NoError(c.t, err, "%s %s is not in the contract", method, path)
	c.seen[method+" "+route.Path] = true
	right := c.t.Run(fmt.Sprintf("%s %s %d", method, strings.TrimPrefix(route.Path, "/api/"), want),
		func(t *testing.T) {
			strict := strict()
			in := &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route, Options: strict}
			if want < 300 {
				require.NoError(t, openapi3filter.ValidateRequest(t.Context(), in))
				req.Body = io.NopCloser(strings.NewReader(body))
			}
			res, err := c.s.app.Test(req, fiber.TestConfig{Timeout: 30 * time.Second})
			require.NoError(t, err)
			answer, err = io.ReadAll(res.Body)
			require.NoError(t, err)
			require.Equal(t, want, res.StatusCode, "%s %s: %s", method, path, answer)
			if want == 201 && c.token == "" && path != "/api/sticks" && path != "/api/probe/announce" {
				c.made = res.Header.Get("Location")
				require.NotEmpty(t, c.made, "%s %s says where what it made is", method, path)
			}
			require.NoError(t, openapi3filter.ValidateResponse(t.Context(), &openapi3filter.ResponseValidationInput{
				RequestValidationInput: in, Status: res.StatusCode, Header: res.Header, Body: io.NopCloser(bytes.NewReader(answer)), Options: strict,
			}), "%s %s: %s", method, path, answer)

		})
	require.True(c.t, right, "what follows rests on it")
	return answer
}

// strict is how answers are checked: what is not in the contract is an error, be it a
// status, a body's type or a member.
func strict() *openapi3filter.Options {
	return &openapi3filter.Options{IncludeResponseStatus: true,
		AuthenticationFunc: openapi3filter.NoopAuthenticationFunc}
}

// An answer that is not in the contract fails the contract's test.
func TestTheContractIsStrict(t *testing.T) {
	c := newContract(t)
	answered := func(path string, status int, kind, body string) error {
		req := request("GET", path, "")
		route, params, err := c.router.FindRoute(req)
		require.NoError(t, err)
		return openapi3filter.ValidateResponse(t.Context(), &openapi3filter.ResponseValidationInput{
			RequestValidationInput: &openapi3filter.RequestValidationInput{Request: req, PathParams: params,
				Route: route, Options: strict()},
			Status: status, Header: http.Header{"Content-Type": {kind}}, Body: io.NopCloser(strings.NewReader(body)), Options: strict(),
		})
	}
	_, clock, _ := do(t, c.s, request("GET", "/api/clock", ""))
	require.NoError(t, answered("/api/clock", 200, "application/json", clock))
	assert.Error(t, answered("/api/clock", 200, "application/json", strings.Replace(clock, "{", `{"more":1,`, 1)),
		"a member")
	assert.Error(t, answered("/api/clock", 200, "application/json", "{}"), "a member that is missing")
	assert.Error(t, answered("/api/clock", 418, "application/json", clock), "a status")
	assert.Error(t, answered("/api/clock", 200, "text/plain", clock), "a type")
	_, job, _ := do(t, c.s, request("POST", "/api/jobs", `{"customer":{"name":"x"},"simulated":"laptop"}`))
	id := field(t, []byte(job), "id").(string)
	_, view, _ := do(t, c.s, request("GET", "/api/jobs/"+id, ""))
	require.NoError(t, answered("/api/jobs/"+id, 200, "application/json", view))
	assert.Error(t, answered("/api/jobs/"+id, 200, "application/json",
		strings.Replace(view, `"revision":`, `"revison":1,"revision":`, 1)), "a member of a view")
}

func field(t testing.TB, data []byte, path ...string) any {
	t.Helper()
	var v any
	require.NoError(t, json.Unmarshal(data, &v))
	for _, p := range path {
		switch at := v.(type) {
		case map[string]any:
			v = at[p]
		case []any:
			i := len(at) - 1
			if p != "last" {
				_, err := fmt.Sscan(p, &i)
				require.NoError(t, err)
			}
			v = at[i]
		}
	}
	return v
}

func TestTheContract(t *testing.T) {
	c := newContract(t)
	ask := c.ask
	made := func() []byte { return ask("GET", c.made, "", 200) }
	ask("GET", "/api/clock", "", 200)
	ask("GET", "/api/settings", "", 200)
	ask("GET", "/api/settings/usual", "", 200)
	ask("POST", "/api/settings/usual", "", 200)
	ask("PUT", "/api/settings/prices",
		"kind,maker,model,capacity_gb,price,currency,read_mb_s,write_mb_s\nnvme,,N1,1000,79,EUR,,\n", 200)
	ask("PUT", "/api/settings/prices", "kind\n", 422)
	ask("GET", "/api/settings/prices", "", 200)
	pricesAsJSON(t, c)
	ask("GET", "/api/session", "", 200)
	ask("GET", "/api/reach", "", 200)
	ask("PUT", "/api/reach", `{"host":"192.0.2.200","password":"a long shop password"}`, 403) // not here
	ask("DELETE", "/api/reach", "", 403)
	ask("GET", "/api/reach/qr.png?path=/jobs/x", "", 200)
	ask("GET", "/api/reach/qr.png?path=//elsewhere", "", 400)
	ask("POST", "/api/session", `{"password":"anything at all"}`, 409)
	ask("PUT", "/api/password", `{"password":"a long shop password"}`, 403)
	require.NoError(t, c.s.o.Guard.SetPassword(t.Context(), "a long shop password"))
	ask("PUT", "/api/password", `{"password":"another long password","current":"no"}`, 403)
	ask("PUT", "/api/password", `{"password":"short","current":"a long shop password"}`, 422)
	ask("PUT", "/api/password", `{"password":"a long shop password","current":"a long shop password"}`, 204)
	ask("POST", "/api/session", `{"password":"wrong and wrong"}`, 403)
	ask("POST", "/api/session", `{"password":"a long shop password"}`, 200)
	ask("DELETE", "/api/session", "", 204)
	ask("DELETE", "/api/sessions", "", 204)
	ask("GET", "/api/computer", "", 200)
	ask("GET", "/api/conditions?dir="+t.TempDir(), "", 200)
	ask("GET", "/api/folders?path=/", "", 200)
	ask("GET", "/api/folders?path=relative", "", 422)

	jobs := ask("GET", "/api/jobs?state=all&q=", "", 200)
	for i := range 4 {
		id := field(t, jobs, "cards", fmt.Sprint(i), "id").(string)
		ask("GET", "/api/jobs/"+id, "", 200)
		ask("GET", "/api/jobs/"+id+"/ledger", "", 200)
		ask("GET", "/api/jobs/"+id+"/candidates", "", 200)
		ask("GET", "/api/jobs/"+id+"/report", "", 200)
		ask("GET", "/api/jobs/"+id+"/reports", "", 200)
		ask("GET", "/api/jobs/"+id+"/measuring", "", 200)
		ask("GET", "/api/jobs/"+id+"/tests/t-long-read/closer", "", 200)
		ask("GET", "/api/jobs/"+id+"/timer", "", 200)
		ask("GET", "/api/jobs/"+id+"/runs?limit=2", "", 200)
	}
	first, second := field(t, jobs, "cards", "0", "id").(string), "2026-0002"
	ask("GET", "/api/jobs/"+first+"/reference?number="+second, "", 200)
	ask("GET", "/api/jobs/"+first+"/reference?number="+second+"&setup=nothing", "", 404)
	// itself
	ask("GET", "/api/jobs/"+first+"/reference?number="+field(t, jobs, "cards", "0", "number").(string), "", 404)
	ask("GET", "/api/jobs/nobody/reference?number="+second, "", 404)
	ask("GET", "/api/jobs?state=all&limit=2&cursor=none", "", 422)
	ask("GET", "/api/jobs/nobody/measuring", "", 404)
	ask("GET", "/api/jobs/nobody/clips", "", 404)
	ask("GET", "/api/jobs/nobody/runs", "", 404)
	ask("GET", "/api/jobs?state=lost", "", 422)
	ask("GET", "/api/jobs/nobody", "", 404)
	ask("GET", "/api/jobs/nobody/ledger", "", 404)
	ask("GET", "/api/jobs/nobody/candidates", "", 404)
	ask("GET", "/api/jobs/nobody/report", "", 404)
	ask("GET", "/api/jobs/nobody/timer", "", 404)

	ask("POST", "/api/jobs", `{"customer":{"name":"x"},"old_drive":{"kind":"drum"}}`, 422)
	ask("POST", "/api/jobs", `{"costumer":{"name":"x"}}`, 422)
	ask("POST", "/api/jobs", `{"customer":`, 422)
	ask("POST", "/api/jobs", `{"customer":{"name":"x"},"old_drive":{"kind":"hdd"},"kind":"polish"}`, 422)
	for _, kind := range []string{"comparison", "check-up"} {
		of := "/api/jobs/" + field(t, ask("POST", "/api/jobs",
			`{"customer":{"name":"k"},"simulated":"laptop","kind":"`+kind+`"}`, 201), "id").(string)
		ask("GET", of, "", 200)
		ask("GET", of+"/ledger", "", 200)
		ask("GET", of+"/candidates", "", 200)
		ask("GET", of+"/candidates?base=nothing", "", 404)
		ask("GET", of+"/forecast", "", 409)
		ask("PATCH", of, `{"stays_why":"it is quieter"}`, 200)
	}
	opened := ask("POST", "/api/jobs",
		`{"customer":{"name":"x"},"old_drive":{"kind":"hdd","capacity_bytes":500000000000,"rated":{"read_mb_s":110}},"computer":{"maker":"Larkfield"}}`, 201)
	id := field(t, opened, "id").(string)
	at := "/api/jobs/" + id
	assert.Equal(t, at, c.made)
	ask("GET", at+"/ledger", "", 409)
	ask("GET", at+"/report", "", 409)
	ask("GET", at+"/forecast", "", 200)
	ask("GET", at+"/forecast?new=nvme&new=N1", "", 200)
	ask("GET", at+"/forecast?new=drum", "", 422)
	ask("GET", "/api/jobs/nobody/forecast", "", 404)
	ask("GET", "/api/known", "", 200)
	ask("GET", at+"/quote", "", 409)
	ask("GET", at+"/quote/file", "", 409)
	ask("PUT", at+"/quote", `{"until":"2026-12-31"}`, 409)
	ask("PUT", at+"/accept", `{"new_drive":{"kind":"nvme"}}`, 409)
	ask("POST", "/api/jobs", `{"customer":{"name":"x"},"old_drive":{"kind":"hdd"},"kind":"check-up","quoted":true}`,
		422)
	quoted := ask("POST", "/api/jobs", `{"customer":{"name":"x"},"old_drive":{"kind":"hdd"},"quoted":true}`, 201)
	assert.Equal(t, []any{"quoted", "intake", "nothing"},
		[]any{field(t, quoted, "state"), field(t, quoted, "page"), field(t, quoted, "next", "do")})
	of := "/api/jobs/" + field(t, quoted, "id").(string)
	ask("PUT", of+"/quote", `{"until":"tomorrow"}`, 422)
	ask("PUT", of+"/quote", `{"drives":["a","b","c","d"]}`, 422)
	ask("PUT", of+"/quote", `{"until":"2026-12-31","drives":["N1"]}`, 200)
	assert.Contains(t, string(ask("GET", of+"/quote", "", 200)), `"title":"N1, 79.00 EUR"`)
	ask("GET", of+"/quote?lang=xx", "", 422)
	ask("GET", of+"/quote/file?form=txt&lang=de", "", 200)
	ask("GET", of+"/quote/file?form=doc", "", 422)
	assert.True(t, bytes.HasPrefix(ask("GET", of+"/quote/file", "", 200), []byte("%PDF-")))
	ask("PUT", of+"/accept", `{"new_drive":{"kind":"drum"}}`, 422)
	accepted := ask("PUT", of+"/accept", `{"new_drive":{"kind":"nvme","model":"N1"}}`, 200)
	assert.Equal(t, []any{"open", "N1"},
		[]any{field(t, accepted, "state"), field(t, accepted, "job", "job", "quote", "new")})
	ask("PUT", of+"/accept", `{"new_drive":{"kind":"nvme"}}`, 409)
	ask("PATCH", at, `{"reason":"slow","new_drive":{"kind":"nvme","price":{"amount":"64.00","currency":"EUR"}},"test_seconds":0.3,"test_file_bytes":16777216}`, 200)
	ask("PATCH", at, `{"test_seconds":-1}`, 422)
	ask("PATCH", "/api/jobs/nobody", `{}`, 404)
	ask("POST", at+"/report", "", 409)
	ask("POST", "/api/jobs/nobody/report", "", 404)

	ask("POST", at+"/sittings", `{"setup":"then","conditions":{"power":"mains","busy":["update"],"fill_pct":40}}`, 201)
	ask("POST", at+"/sittings", `{"setup":"then","conditions":{"power":"steam"}}`, 422)
	ask("POST", at+"/sittings", `{"setup":"nowhere","conditions":{}}`, 404)
	ask("PUT", at+"/sittings/s1", `{"power":"battery","encrypted":false}`, 200)
	ask("PUT", at+"/sittings/s9", `{}`, 404)
	ask("PUT", at+"/sittings/s1", `{"fill_pct":300}`, 422)

	ask("GET", at+"/sittings/s1", "", 200)
	ask("GET", at+"/sittings/s9", "", 404)
	typed := ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","value":92.4,"unit":"s","note":"his watch"}`,
		201)
	run := field(t, typed, "job", "runs", "0", "id").(string)
	assert.Equal(t, run, field(t, made(), "id"))
	ask("GET", at+"/runs/none", "", 404)
	ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","value":-1,"unit":"s"}`, 422)
	ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1"}`, 422)
	ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","text":"quick"}`, 422)
	ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","text":"90 s","bytes":-1}`, 422)
	assert.Equal(t, 91.5,
		field(t, ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","value":1.525,"unit":"min"}`, 201), "job",
			"runs", "1", "value"))
	assert.Contains(t, string(ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","value":1.5,"unit":"s"}`, 409)),
		"minutes taken for seconds")
	ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","value":1.5,"unit":"s","sure":true}`, 201)
	assert.Equal(t, 92.0,
		field(t, ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","text":"1:32"}`, 201), "job", "runs", "last",
			"value"))
	ranged := ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","text":"90-94 s","bytes":4000000000,"files":12,
		"read_in":{"program":"Millrace","version":"3","file_bytes":1024}}`, 201)
	assert.Equal(t, []any{90.0, 94.0}, field(t, ranged, "job", "runs", "last", "range"))
	assert.Equal(t, 1024.0, field(t, ranged, "job", "runs", "last", "read_in", "file_bytes"))
	ended := ask("POST", at+"/runs", `{"test":"t-start","sitting":"s1","text":"not finished after 2 min"}`, 201)
	assert.Equal(t, "above", field(t, ended, "job", "runs", "last", "bound"))
	figures := "setup,test,value,unit\nThen,Cold start to desktop,93,s\nThen,nap,93,s\n"
	ask("POST", at+"/table?name=x.csv", figures, 200)
	ask("POST", at+"/table?take=all", figures, 409)
	ask("POST", at+"/table?take=sure", figures, 200)
	ask("POST", at+"/table", "mood\n", 422)
	ask("POST", "/api/jobs/nobody/table", figures, 404)
	ask("POST", at+"/runs", `{"test":"nap","sitting":"s1","value":1,"unit":"s"}`, 404)
	ask("PUT", at+"/runs/"+run+"/set-aside", `{"reason":""}`, 422)
	ask("PUT", at+"/runs/"+run+"/set-aside", `{"reason":"door"}`, 200)
	ask("PUT", at+"/runs/none/set-aside", `{"reason":"door"}`, 404)
	ask("DELETE", at+"/runs/"+run+"/set-aside", "", 200)
	ask("DELETE", at+"/runs/none/set-aside", "", 404)

	clip := field(t, ask("POST", at+"/clips", `{"name":"x.webm","type":"video/webm","bytes":8}`, 201), "id").(string)
	assert.Equal(t, clip, field(t, made(), "id"))
	ask("GET", at+"/clips/none", "", 404)
	ask("POST", at+"/clips", `{"name":"x.gif","type":"image/gif","bytes":8}`, 422)
	ask("POST", "/api/jobs/nobody/clips", `{"name":"x.webm","type":"video/webm","bytes":8}`, 404)
	ask("GET", at+"/clips/"+clip+"/file", "", 404)
	ask("PUT", at+"/clips/"+clip+"/bytes?offset=3", "webm", 409)
	ask("PUT", at+"/clips/"+clip+"/bytes", "\x1a\x45\xdf\xa3webm", 200)
	ask("PUT", at+"/clips/none/bytes", "webm", 404)
	assert.Equal(t, "\x1a\x45\xdf\xa3webm", string(ask("GET", at+"/clips/"+clip+"/file", "", 200)))
	ask("GET", at+"/clips", "", 200)
	ask("PATCH", at+"/clips/"+clip, `{"keep_until":"2099-01-01T00:00:00Z"}`, 200)
	ask("PATCH", at+"/clips/none", `{}`, 404)
	ask("POST", at+"/clips/"+clip+"/runs", `{"test":"t-start","sitting":"s1","marks":[{"at_s":1,"frame_s":0.04}]}`, 422)
	ask("POST", at+"/clips/"+clip+"/runs",
		`{"test":"t-start","sitting":"s1","marks":[{"at_s":1,"frame_s":0.04},{"at_s":42,"frame_s":0.04},{"at_s":50,"frame_s":0.04},{"at_s":101.5,"frame_s":0.04}]}`, 201)
	ask("POST", at+"/clips/none/runs", `{"test":"t-start","sitting":"s1","marks":[]}`, 404)
	ask("POST", at+"/stills", "no picture", 422)
	ask("POST", "/api/jobs/nobody/stills", "x", 404)
	var still bytes.Buffer
	require.NoError(t, png.Encode(&still, image.NewGray(image.Rect(0, 0, 4, 4))))
	ask("POST", at+"/stills", still.String(), 201)
	ask("DELETE", at+"/clips/"+clip, "", 200)
	ask("DELETE", at+"/clips/none", "", 404)

	ask("GET", "/api/technicians", "", 200)
	ask("POST", "/api/technicians", `{"name":"Runa","times_s":[0.2,0.21,0.22,0.23,0.24,0.25,0.26,0.27]}`, 201)
	assert.Equal(t, "Runa", field(t, made(), "name"))
	ask("GET", "/api/technicians/Nobody", "", 404)
	ask("POST", "/api/technicians", `{"name":"","times_s":[]}`, 422)

	ask("DELETE", at+"/timer", "", 204)
	finish := field(t, ask("PUT", at+"/timer", `{"test":"t-start","sitting":"s1","by":"Runa"}`, 200), "finish").(string)
	assert.Contains(t, string(ask("GET", finish, "", 200)), "does not run yet")
	ask("GET", finish+"/1", "", 200)
	ask("GET", finish+"/1/seen.gif", "", 200)
	ask("GET", finish+"/7", "", 404)
	ask("GET", "/f/nobody", "", 404)
	ask("PUT", at+"/timer", `{"test":"t-long-read","sitting":"s1"}`, 422)
	ask("PUT", at+"/timer", `{"test":"nap","sitting":"s1"}`, 404)
	ask("POST", at+"/timer/keep", `{}`, 409)
	now := field(t, ask("GET", "/api/clock", "", 200), "ms").(float64)
	ask("POST", at+"/timer/presses", fmt.Sprintf(`{"key":"0","at_ms":%.1f}`, now), 200)
	ask("DELETE", at+"/timer/presses?key=back", "", 200)
	ask("DELETE", at+"/timer/presses?key=back", "", 200) // it was done; nothing more is taken back
	ask("DELETE", at+"/timer/presses", "", 409)
	for i := range 4 {
		ask("POST", at+"/timer/presses", fmt.Sprintf(`{"key":"k%d","at_ms":%.1f}`, i, now+float64(i)*100), 200)
	}
	ask("POST", at+"/timer/presses", fmt.Sprintf(`{"key":"k9","at_ms":%.1f}`, now+900), 409)
	ask("GET", at+"/timer", "", 200)
	ask("PUT", at+"/timer", `{"test":"t-start","sitting":"s1"}`, 200)
	ask("POST", at+"/timer/keep", `{"again":true}`, 201)
	ask("DELETE", at+"/timer", "", 204)
	ask("POST", "/api/jobs/nobody/timer/presses", `{"key":"k","at_ms":1}`, 404)
	ask("DELETE", "/api/jobs/nobody/timer/presses", "", 404)
	ask("POST", "/api/jobs/nobody/timer/keep", `{}`, 404)
	ask("DELETE", "/api/jobs/nobody/timer", "", 404)

	ask("POST", at+"/measuring", `{"sitting":"s1","dir":"/nowhere/at/all"}`, 422)
	ask("POST", at+"/measuring", `{"sitting":"s9","dir":"/"}`, 404)
	ask("DELETE", at+"/measuring", "", 409)
	ask("GET", at+"/tests/t-none/closer", "", 404)
	ask("POST", at+"/perform", `{"test":"t-start","sitting":"s1"}`, 409)
	ask("POST", at+"/perform", `{"test":"nap","sitting":"s1"}`, 404)

	simulated := field(t, ask("POST", "/api/jobs", `{"customer":{"name":"s"},"simulated":"laptop"}`, 201),
		"id").(string)
	sim := "/api/jobs/" + simulated
	ask("POST", sim+"/sittings", `{"setup":"then","conditions":{}}`, 201)
	ask("POST", sim+"/perform", `{"test":"t-start","sitting":"s1"}`, 201)
	ask("POST", sim+"/measuring", `{"sitting":"s1"}`, 202)
	require.Eventually(t, func() bool {
		return field(t, ask("GET", sim+"/measuring", "", 200), "state") == "done"
	}, time.Minute, 20*time.Millisecond)
	ask("POST", sim+"/measuring", `{"sitting":"s1"}`, 409)
	ask("GET", sim+"/report/file?form=pdf", "", 404)
	ask("POST", sim+"/report?lang=de", "", 409)                // the work has not begun
	ask("POST", sim+"/gates", `{"gate":"old-drive-out"}`, 409) // something is missing
	ask("POST", sim+"/gates", `{"gate":"old-drive-out","why":"a try"}`, 200)
	ask("POST", sim+"/report?lang=de", "", 201)
	assert.Equal(t, "de", field(t, ask("GET", sim+"/report", "", 200), "issued", "lang"))
	for _, form := range []string{"pdf", "html", "txt", "csv", "png", "json"} {
		ask("GET", sim+"/report/file?form="+form, "", 200)
		ask("GET", sim+"/report/file?draft=1&lang=en&length=full&paper=letter&form="+form, "", 200)
		ask("GET", sim+"/report/file?draft=true&form="+form, "", 422)
	}
	ask("GET", sim+"/report/file?revision=2", "", 404)
	// What is chosen shows in the draft and in the next revision, never in one that was issued.
	ask("PUT", sim+"/report/draft", `{"left_out":["t-start"]}`, 422)
	ask("PUT", sim+"/report/draft", `{"left_out":["no-such-test"]}`, 422)
	ask("PUT", sim+"/report/draft", `{"length":"novel"}`, 422)
	ask("PUT", "/api/jobs/nobody/report/draft", `{}`, 404)
	// The bill: amounts as they are typed, and what they bought beside the ledger and on the report.
	ask("PUT", sim+"/bill", `{"items":[{"what":"labour","amount":"sixty"}]}`, 422)
	ask("PUT", sim+"/bill", `{"items":[{"what":"labour","amount":""}]}`, 422)
	ask("PUT", sim+"/bill", `{"support_ends":"soon"}`, 422)
	ask("PUT", sim+"/bill", `{"hours":"12"}`, 422)
	ask("PUT", "/api/jobs/nobody/bill", `{}`, 404)
	promises(t, ask, sim)
	tasks(t, ask, sim)
	fittings(t, ask, sim)
	billed := ask("PUT", sim+"/bill",
		`{"items":[{"what":" labour ","amount":"60"},{"what":"","amount":""}],"hour_worth":"12,5","new_computer":"720","support_ends":"2031-10-14"}`, 200)
	assert.Equal(t, "60.00", field(t, billed, "job", "job", "bill", "items", "0", "price", "amount"))
	assert.Equal(t, "12.50", field(t, billed, "job", "job", "bill", "hour_worth", "amount"))
	priced := field(t, billed, "job", "job", "bill", "items", "0", "at")
	billed = ask("PUT", sim+"/bill",
		`{"items":[{"what":"adapter","amount":"9.90"},{"what":"labour","amount":"60.00"}]}`, 200)
	assert.Equal(t, priced, field(t, billed, "job", "job", "bill", "items", "1", "at"), "what stays keeps its day")
	assert.NotEmpty(t, field(t, ask("GET", sim+"/ledger", "", 200), "value_words"))
	ask("PUT", sim+"/report/draft",
		`{"note":" Come back in a week. ","left_out":["t-long-read"],"first":["t-scattered"],"length":"one"}`, 200)
	drafted := ask("GET", sim+"/report?lang=de", "", 200)
	assert.Equal(t, "Come back in a week.", field(t, drafted, "draft", "note"))
	assert.Equal(t, "one", field(t, drafted, "draft", "length"))
	assert.Empty(t, field(t, drafted, "issued", "note"))
	assert.Equal(t, "Viele kleine Lesezugriffe", field(t, drafted, "draft", "drive", "0", "name"))
	assert.NotContains(t, string(drafted), "Long read")
	ask("POST", sim+"/report?lang=de", "", 201)
	ask("PUT", sim+"/carried", `{"files":10,"bytes":5,"unchanged":11,"counts":{}}`, 422)
	ask("PUT", sim+"/carried", `{"files":10,"bytes":5,"unchanged":9,"missing":["a","b"],"counts":{"missing":1}}`, 422)
	ask("PUT", sim+"/carried", `{"files":-1,"bytes":5,"unchanged":0,"counts":{}}`, 422)
	ask("PUT", sim+"/carried", `{"files":10,"folders":1}`, 422)
	ask("PUT", "/api/jobs/nobody/carried", `{"files":1,"bytes":1,"unchanged":1,"counts":{}}`, 404)
	carried := ask("PUT", sim+"/carried",
		`{"files":212406,"bytes":184000000000,"unchanged":212392,"missing":[],"changed":[],"new":["x"],"unreadable_before":["secret.txt"],"unreadable_now":[],"set_apart":{"cache":3},"counts":{"missing":0,"changed":0,"new":1,"unreadable_before":14,"unreadable_now":0}}`, 200)
	assert.NotContains(t, string(carried), "secret.txt", "the names of the customer's files are not kept")
	assert.Contains(t, string(ask("GET", sim+"/report?lang=de", "", 200)),
		"212.406 Dateien, 184 GB: alle unverändert übertragen. 14 waren schon auf dem alten Laufwerk nicht lesbar.")
	revisions := ask("GET", sim+"/reports", "", 200)
	assert.Equal(t, 2.0, field(t, revisions, "1", "revision"))
	assert.Contains(t, string(revisions), "Nicht mehr gezeigt: ")
	assert.Contains(t, string(revisions), "Die Anmerkung des Technikers")
	assert.Empty(t, field(t, revisions, "0", "changes"))
	ask("GET", "/api/jobs/nobody/reports", "", 404)
	ask("POST", sim+"/shares", `{"days":9999}`, 422)
	ask("POST", "/api/jobs/nobody/shares", `{}`, 404)
	link := ask("POST", sim+"/shares", `{"days":30}`, 201)
	assert.Contains(t, field(t, link, "url"), "/r/"+field(t, link, "token").(string))
	assert.Empty(t, field(t, ask("GET", sim+"/shares", "", 200), "0", "token"), "it is told once")
	ask("DELETE", sim+"/shares/nobody", "", 404)
	ask("DELETE", sim+"/shares/"+field(t, link, "id").(string), "", 200)
	ask("GET", sim+"/report/file?form=doc", "", 422)
	ask("GET", sim+"/report?lang=tlh", "", 422)
	ask("POST", sim+"/gates", `{"gate":"old-drive-out"}`, 409)
	ask("POST", sim+"/gates", `{"gate":"moon"}`, 404)
	ask("POST", "/api/jobs/nobody/gates", `{"gate":"moon"}`, 404)

	ask("POST", sim+"/gates", `{"gate":"measured-again","why":"in a hurry"}`, 200)
	ask("POST", sim+"/gates", `{"gate":"handed-back"}`, 422)
	ask("POST", sim+"/gates", `{"gate":"handed-back","old_drive":"kept","why":"a try"}`, 200)
	ask("DELETE", sim+"/gates/old-drive-out", "", 409)
	ask("DELETE", sim+"/gates/handed-back", "", 200)
	ask("DELETE", sim+"/gates/handed-back", "", 404)
	ask("POST", sim+"/gates", `{"gate":"handed-back","old_drive":"kept","why":"a try"}`, 200)
	// A job in the bin is in no list, and comes back as it was; only one that is there is deleted permanently.
	listed := func(state string) string { return string(ask("GET", "/api/jobs?state="+state, "", 200)) }
	binned := strings.TrimPrefix(sim, "/api/jobs/")
	ask("DELETE", sim+"?for=good", "", 409)
	assert.NotNil(t, field(t, ask("DELETE", sim, "", 200), "job", "job", "binned"))
	ask("DELETE", sim, "", 200)
	assert.NotContains(t, listed("all")+listed("open")+listed("finished"), binned)
	assert.Contains(t, listed("bin"), binned)
	ask("POST", sim+"/restore", "", 200)
	ask("POST", "/api/jobs/nobody/restore", "", 404)
	ask("DELETE", "/api/jobs/nobody", "", 404)
	assert.Contains(t, listed("all"), binned)
	assert.NotContains(t, listed("bin"), binned)
	lost := "/api/jobs/" +
		field(t, ask("POST", "/api/jobs", `{"customer":{"name":"By mistake"},"simulated":"laptop"}`, 201),
			"id").(string)
	ask("DELETE", lost, "", 200)
	ask("DELETE", lost+"?for=good", "", 204)
	ask("GET", lost, "", 404)
	assert.NotContains(t, listed("bin"), "By mistake")

	// A report that is withdrawn stays in the list; its links say so, and the one before it holds.
	ask("DELETE", sim+"/reports/9", "", 404)
	ask("DELETE", sim+"/reports/last", "", 404)
	issued := func(job []byte) int { return strings.Count(string(job), `"name":"report-issued"`) }
	before := issued(ask("GET", sim, "", 200))
	gone := ask("DELETE", sim+"/reports/2", "", 200)
	assert.Equal(t, before-1, issued(gone), "its gate is taken back")
	assert.Equal(t, 2.0, field(t, gone, "job", "job", "withdrawn", "0", "revision"))
	ask("DELETE", sim+"/reports/2", "", 200)
	kept := ask("GET", sim+"/reports", "", 200)
	assert.NotNil(t, field(t, kept, "1", "withdrawn"))
	assert.Equal(t, 1.0, field(t, ask("GET", sim+"/report", "", 200), "issued", "revision"))
	ask("DELETE", sim+"/reports/1", "", 200)
	assert.Nil(t, field(t, ask("GET", sim+"/report", "", 200), "issued"))
	ask("POST", sim+"/shares", `{"days":30}`, 404)
	ask("POST", sim+"/report?lang=de", "", 201)
	c.askAboutThePlan(at)
	c.askAboutProbes(sim)

	file := ask("GET", sim+"/export", "", 200)
	ask("GET", "/api/jobs/nobody/export", "", 404)
	ask("POST", "/api/jobs/import?name=x.json", string(file), 409)
	ask("POST", "/api/jobs/import?name=x.json&as=moon", string(file), 422)
	ask("POST", "/api/jobs/import?name=x.json&as=update", string(file), 201)
	// Deleting permanently also deletes runs and traces.
	copied := "/api/jobs/" +
		field(t, ask("POST", "/api/jobs/import?name=x.json&as=copy", string(file), 201), "id").(string)
	assert.NotEmpty(t, field(t, ask("GET", copied, "", 200), "job", "runs"))
	ask("DELETE", copied, "", 200)
	ask("DELETE", copied+"?for=good", "", 204)
	ask("GET", copied, "", 404)
	ask("POST", "/api/jobs/import?name=x.json&as=copy", string(file), 201)
	ask("GET", sim+"/export?with=everything", "", 422)
	ask("GET", sim+"/export?with=media", "", 200)
	refused := ask("POST", "/api/jobs/import?name=x.json", string(file[:300]), 422)
	assert.Contains(t, string(refused), "x.json")

	for _, op := range operations(load(t)) {
		assert.True(t, c.seen[op] || op == "GET /api/events", "%s has no test", op)
	}
}

// askAboutSticks prepares a stick, and announces computers with it.
func (c *contract) askAboutSticks(facts string) {
	t, ask := c.t, c.ask
	ask("POST", "/api/sticks", "", 409) // no probes beside the bench
	c.s.o.Probes = t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(c.s.o.Probes, "nowthen-probe-linux-amd64"), []byte("a probe"), 0o600))
	stick := readStick(t, ask("POST", "/api/sticks", "", 201))
	key := field(t, ask("GET", "/api/sticks", "", 200), "0", "id").(string)
	announce := func(known string, want int) []byte {
		return ask("POST", "/api/probe/announce", `{"key":"`+stick.Key+`","hello":{"protocol":1,"engine":"5",`+
			`"system":"linux/amd64","machine":"`+known+`","facts":`+facts+`}}`, want)
	}
	waits := func(n string) string { return field(t, ask("GET", "/api/offers", "", 200), n, "id").(string) }
	first := field(t, announce("m1", 201), "token").(string)
	announce("m2", 201)
	ask("GET", "/api/probe/admission", "", 404)
	ask("POST", "/api/offers/"+waits("0")+"/admit", `{}`, 422) // it doesn't say its drive
	ask("POST", "/api/offers/nobody/admit", `{}`, 404)
	opened := ask("POST", "/api/jobs", `{"customer":{"name":"stick"},"old_drive":{"kind":"hdd"}}`, 201)
	ask("POST", "/api/offers/"+waits("0")+"/admit", `{"job":"`+field(t, opened, "id").(string)+`"}`, 201)
	c.token = first
	ask("GET", "/api/probe/admission", "", 200)
	c.token = "nobody"
	ask("GET", "/api/probe/admission", "", 404)
	c.token = ""
	ask("DELETE", "/api/offers/"+waits("0"), "", 200)
	ask("DELETE", "/api/sticks/nobody", "", 404)
	ask("DELETE", "/api/sticks/"+key, "", 200)
	announce("m3", 409)
	c.s.o.Probes = ""
}

// readStick reads what the zip of a stick tells the probe.
func readStick(t *testing.T, file []byte) *order.Stick {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	require.NoError(t, err)
	names := []string{}
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	assert.Equal(t, []string{"nowthen/nowthen-stick.json", "nowthen/read-me.txt", "nowthen/nowthen-probe-linux-amd64"}, names)
	assert.NotZero(t, z.File[2].Mode()&0o100, "it can be started")
	f, err := z.Open("nowthen/nowthen-stick.json")
	require.NoError(t, err)
	defer f.Close()
	stick, err := order.ReadStick(f)
	require.NoError(t, err)
	return stick
}

// askAboutProbes lets a probe join a job, and goes over all that is said between them.
func (c *contract) askAboutProbes(at string) {
	t, ask := c.t, c.ask
	const facts = `{"computer":{"maker":"Larkfield"},"system":{},"drives":[],"volumes":[],"partitions":[],"absent":[]}`
	ask("POST", "/api/jobs/nobody/pairing", "", 404)
	code := field(t, ask("POST", at+"/pairing", "", 201), "code").(string)
	ask("POST", "/api/probe/join",
		`{"code":"AAAA-AAAA","protocol":1,"engine":"5","system":"linux/amd64","facts":`+facts+`}`, 409)
	ask("POST", "/api/probe/join",
		`{"code":"AAAA-AAAA","protocol":7,"engine":"5","system":"linux/amd64","facts":`+facts+`}`, 422)
	welcome := ask("POST", "/api/probe/join",
		`{"code":"`+code+`","protocol":1,"engine":"5","system":"linux/amd64","simulated":"laptop","facts":`+facts+`}`, 201)
	token, probe := field(t, welcome, "token").(string), field(t, welcome, "probe").(string)
	as := func(method, path, body string, want int) []byte {
		c.token = token
		defer func() { c.token = "" }()
		return ask(method, path, body, want)
	}
	ask("POST", "/api/probe/hello", `{"protocol":1,"engine":"5","system":"linux/amd64","facts":`+facts+`}`, 401)
	as("POST", "/api/probe/hello", `{"protocol":1,"engine":"5","system":"linux/amd64","facts":`+facts+`}`, 200)
	assert.Equal(t, probe, field(t, ask("GET", at+"/probes", "", 200), "0", "id"))

	c.askAboutSticks(facts)
	seen := make(chan []byte)
	go func() { // a page asks while the probe waits for work
		_, body, _ := do(t, c.s, request("GET", at+"/probes/"+probe+"/conditions", ""))
		seen <- []byte(body)
	}()
	look := as("GET", "/api/probe/work?doing=", "", 200)
	assert.Equal(t, "look", field(t, look, "kind"))
	as("POST", "/api/probe/looked", `{"order":"`+field(t, look, "id").(string)+`","conditions":{"power":"battery"}}`,
		204)
	assert.Equal(t, "It runs on battery.", field(t, <-seen, "doubts", "0"))
	ask("GET", at+"/probes/nobody/conditions", "", 404)
	ask("POST", at+"/probes/"+probe+"/doings", `{"do":"fly"}`, 422)
	ask("POST", at+"/probes/"+probe+"/doings", `{"do":"on-battery"}`, 200)
	assert.Equal(t, "on-battery", field(t, as("GET", "/api/probe/work?doing=", "", 200), "do"))
	ask("GET", at+"/swap", "", 200)
	ask("GET", "/api/jobs/nobody/swap", "", 404)
	ask("POST", at+"/probes/nobody/refresh", "", 404)
	ask("POST", at+"/probes/"+probe+"/refresh", "", 200)
	assert.Equal(t, "greet", field(t, as("GET", "/api/probe/work?doing=", "", 200), "kind"))
	c.askAboutChecks(at, probe, as)
	c.askAboutFiles(at, probe, as)
	// Which folders are large, and the layout by hand.
	ask("POST", at+"/probes/nobody/weigh", "", 404)
	ask("POST", at+"/probes/"+probe+"/weigh", "", 409) // it tells of no folder on the drive
	as("POST", "/api/probe/weighed",
		`{"order":"x","dir":"/","files":1,"bytes":5,"largest":[{"path":"films","files":1,"bytes":6}]}`, 422)
	as("POST", "/api/probe/weighed",
		`{"order":"x","dir":"/","files":1,"bytes":5,"largest":[{"path":"films","files":1,"bytes":5}]}`, 204)
	ask("GET", "/api/jobs/nobody/layout", "", 404)
	ask("GET", at+"/layout?sizes=much", "", 422)
	ask("GET", at+"/layout", "", 409) // of which partitions, nobody told
	ask("POST", at+"/probes/"+probe+"/facts", `{"setup":"moon"}`, 404)
	ask("POST", at+"/probes/"+probe+"/facts", `{"setup":"then"}`, 200)

	ask("POST", at+"/measuring", `{"sitting":"s1","tests":["t-long-read"],"runs":1,"probe":"nobody"}`, 404)
	other := ask("POST", at+"/measuring", `{"sitting":"s1","tests":["t-long-read"],"runs":1,"probe":"`+probe+`"}`, 409)
	assert.Contains(t, string(other), "This isn’t the drive in the computer now", "the old drive has come out")
	ask("POST", at+"/sittings", `{"setup":"now","conditions":{}}`, 201)
	ask("POST", at+"/measuring", `{"sitting":"s2","tests":["t-long-read"],"runs":1,"probe":"`+probe+`"}`, 202)
	o := as("GET", "/api/probe/work?doing=", "", 200)
	id := field(t, o, "id").(string)
	as("POST", "/api/probe/progress", `{"order":"`+id+`","step":0,"done":0.5,"mb_s":100,"bytes":1000,"elapsed_s":2}`,
		204)
	assert.InDelta(t, 100, field(t, ask("GET", at+"/measuring", "", 200), "rate"), 1e-9)
	run := `{"order":"` + id +
		`","step":0,"run":{"id":"R1","test":"t-long-read","sitting":"s2","value":101,"method":"automatic","set_aside":null}}`
	as("POST", "/api/probe/runs", strings.Replace(run, `"value":101`, `"value":-1`, 1), 422)
	as("POST", "/api/probe/runs", strings.Replace(run, `"test":"t-long-read"`, `"test":"t-moon"`, 1), 404)
	as("POST", "/api/probe/runs", run, 204)
	as("POST", "/api/probe/runs", run, 204)
	assert.Equal(t, true, field(t, ask("GET", at+"/runs/R1", "", 200), "simulated"), "nothing takes the mark off")
	as("POST", "/api/probe/runs", strings.Replace(run, `"id":"R1"`, `"id":"R2"`, 1), 204) // its order has one already
	ask("POST", at+"/waiting/none/accept", "", 404)
	ask("DELETE", at+"/waiting/none", "", 404)
	ask("DELETE", at+"/waiting/R2", "", 200)
	ask("POST", at+"/waiting/R2/accept", "", 200)
	as("POST", "/api/probe/ended", `{"order":"`+id+`","state":"gone"}`, 422)
	as("POST", "/api/probe/ended", `{"order":"`+id+`","state":"done"}`, 204)
	assert.Equal(t, "done", field(t, ask("GET", at+"/measuring", "", 200), "state"))
	ask("POST", at+"/restarts", `{"test":"t-start","sitting":"s2","probe":"`+probe+`"}`, 422)
	ask("POST", at+"/tests", `{"id":"t-restart-watch"}`, 201)
	ask("POST", at+"/restarts", `{"test":"t-restart-watch","sitting":"s2","probe":"`+probe+`","by_hand":true,"hand":1}`,
		422)
	ask("POST", at+"/restarts", `{"test":"t-restart-watch","sitting":"s2","probe":"nobody"}`, 404)
	ask("POST", at+"/restarts", `{"test":"t-restart-watch","sitting":"s2","probe":"`+probe+`","by_hand":true,"runs":2}`,
		202)
	o = as("GET", "/api/probe/work?doing=", "", 200)
	id = field(t, o, "id").(string)
	assert.Equal(t, []any{"restart", true}, []any{field(t, o, "kind"), field(t, o, "by_hand")})
	last := as("POST", "/api/probe/sign", `{"order":"`+id+`","step":0,"leaving":true}`, 200)
	assert.Contains(t, field(t, ask("GET", at+"/measuring", "", 200), "waiting"), "reports back by itself")
	first := as("POST", "/api/probe/sign", `{"order":"`+id+`","step":0}`, 200)
	assert.Equal(t, field(t, last, "start"), field(t, first, "start"))
	assert.GreaterOrEqual(t, field(t, first, "steady_s"), field(t, last, "steady_s"))
	assert.Empty(t, field(t, ask("GET", at+"/measuring", "", 200), "waiting"))
	as("POST", "/api/probe/sign", `{"order":"not mine","step":-1}`, 200) // changes nothing
	as("POST", "/api/probe/ended", `{"order":"`+id+`","state":"cancelled"}`, 204)
	ask("POST", at+"/probes/"+probe+"/starts", `{"sitting":"s2","test":"t-start","at":[]}`, 422)
	ask("POST", at+"/tests", `{"id":"t-start-recorded"}`, 201)
	ask("POST", at+"/probes/"+probe+"/starts",
		`{"sitting":"s2","test":"t-start-recorded","at":["2001-01-01T00:00:00Z"]}`, 404)
	ask("POST", at+"/probes/"+probe+"/starts", `{"sitting":"s9","test":"t-start-recorded","at":[]}`, 404)
	ask("POST", at+"/probes/nobody/starts", `{"sitting":"s2","test":"t-start-recorded","at":[]}`, 404)
	ask("POST", at+"/launches", `{"test":"t-start","sitting":"s2","probe":"`+probe+`","program":"x","until":"soon"}`,
		422)
	ask("POST", at+"/launches", `{"test":"t-moon","sitting":"s2","probe":"`+probe+`","program":"x","until":"exit"}`,
		404)
	ask("POST", at+"/tests", `{"id":"t-launch"}`, 201)
	ask("POST", at+"/launches",
		`{"test":"t-launch","sitting":"s2","probe":"`+probe+`","program":"ledger","args":["--quiet"],"until":"window:Ledger","cold":true,"runs":1}`, 202)
	o = as("GET", "/api/probe/work?doing=", "", 200)
	assert.Equal(t, "launch", field(t, o, "kind"))
	assert.Equal(t, "ledger", field(t, o, "tests", "0", "launch", "program"))
	as("POST", "/api/probe/ended",
		`{"order":"`+field(t, o, "id").(string)+`","state":"failed","error":"it cannot be started"}`, 204)
	assert.Equal(t, "window:Ledger", field(t, ask("GET", at+"/tests/t-launch", "", 200), "launch", "until"),
		"kept for the other side")
	ask("POST", at+"/probes/nobody/stay", "", 404)
	ask("POST", at+"/probes/"+probe+"/stay", "", 200)
	ask("DELETE", at+"/probes/nobody", "", 404)
	ask("DELETE", at+"/probes/"+probe, "", 200)
	c.s.desk.Jobs.Shift(time.Minute) // the time to undo it is over
	assert.Equal(t, "leave", field(t, as("GET", "/api/probe/work?doing=", "", 200), "kind"))
	as("POST", "/api/probe/left", `{}`, 204)
	as("GET", "/api/probe/work?doing=", "", 401)
}

// askAboutThePlan goes over the plan, the steps and the setups of a job.
func (c *contract) askAboutThePlan(at string) {
	t, ask := c.t, c.ask
	id := strings.TrimPrefix(at, "/api/jobs/")
	ask("GET", "/api/catalogue", "", 200)
	ask("GET", "/api/templates", "", 200)
	ask("PUT", at+"/template", `{"template":"games"}`, 200)
	ask("PUT", at+"/template", `{"template":"moon"}`, 404)
	ask("DELETE", at+"/template", "", 200)
	ask("DELETE", at+"/template", "", 409)
	ask("PUT", at+"/template", `{"template":"games"}`, 200)
	ask("POST", at+"/events", `{"setup":"then","what":"hang","test":"t-start"}`, 201)
	ask("POST", at+"/events", `{"setup":"then","what":"nap"}`, 422)
	ask("DELETE", at+"/setups/then/last-event", "", 200)
	ask("DELETE", at+"/setups/then/last-event", "", 404)
	ask("PATCH", at, `{"reasons":[{"what":"slow-start","words":"takes an age"},{"what":"full","outcome":"solved","remains":""}]}`, 200)
	ask("PATCH", at, `{"reasons":[{"what":"boredom"}]}`, 422)
	ask("GET", "/api/settings/shop", "", 200)
	ask("PUT", "/api/settings/shop",
		`{"name":"Bench Lane Repairs","address":"3 Bench Lane","currency":"EUR","paper":"a4","felt_seconds":0.5,"felt_share":0.2,"morning_pages":6}`, 200)
	const logo = "iVBORw0KGgoAAAANSUhEUgAAAAIAAAABCAAAAADRSSBWAAAAC0lEQVR4nGMQ+AAAARMBAXVbZvwAAAAASUVORK5CYII="
	ask("PUT", "/api/settings/shop",
		`{"name":"Bench Lane Repairs","address":"3 Bench Lane","footer":"Reg. no. 12","terms":"Two years.","colour":"#0b5d5e","logo":"`+logo+`","currency":"EUR","paper":"a4","felt_seconds":0.5,"felt_share":0.2,"morning_pages":6}`, 200)
	assert.NotEmpty(t, field(t,
		ask("PUT", "/api/settings/shop",
			`{"name":"Bench Lane Repairs","address":"3 Bench Lane","currency":"EUR","paper":"a4","felt_seconds":0.5,"felt_share":0.2,"morning_pages":6}`, 200), "logo"), "what is left out stays")
	ask("PUT", "/api/settings/shop",
		`{"name":"","address":"","colour":"#ffcc00","currency":"EUR","paper":"a4","felt_seconds":0.5,"felt_share":0.2,"morning_pages":6}`, 422)
	ask("PUT", "/api/settings/shop",
		`{"name":"","address":"","logo":"PHN2Zz4=","currency":"EUR","paper":"a4","felt_seconds":0.5,"felt_share":0.2,"morning_pages":6}`, 422)
	ask("PUT", "/api/settings/shop",
		`{"name":"","address":"","currency":"coins","paper":"a4","felt_seconds":0.5,"felt_share":0.2,"morning_pages":6}`, 422)
	ask("PUT", at+"/answers", `{"loads":30}`, 200)
	ask("PUT", at+"/answers", `{"naps":1}`, 422)
	ask("POST", at+"/tests", `{"id":"t-wake"}`, 201)
	ask("GET", at+"/tests/t-wake", "", 200)
	ask("GET", at+"/tests/nap", "", 404)
	ask("POST", at+"/tests", `{"id":"t-wake"}`, 409)
	ask("PATCH", at+"/plan", `{"tests":{"t-wake":{"wanted_runs":4}},"answers":{"loads":12}}`, 200)
	ask("PATCH", at+"/plan", `{"tests":{"t-wake":{"wanted_runs":-4}}}`, 422)
	ask("PATCH", at+"/plan", `{"tests":{"nap":{}}}`, 404)
	ask("PATCH", at+"/plan", `{"headline":"t-wake"}`, 200)
	ask("PATCH", at+"/plan", `{"order":["t-wake"]}`, 422)
	ask("POST", at+"/tests", `{"id":"t-wake","content":"with the lid"}`, 201)
	ask("POST", at+"/tests",
		`{"kind":"timed","name":"Opening the till","phases":[{"id":"","name":"window"},{"id":"","name":"code","counts":false}]}`, 201)
	ask("POST", at+"/tests", `{"kind":"drive","name":"x"}`, 422)
	ask("PATCH", at+"/tests/t-wake", `{"wanted_runs":2,"per_week":3}`, 200)
	ask("PATCH", at+"/tests/t-wake", `{"wanted_runs":-2}`, 422)
	ask("PATCH", at+"/tests/nap", `{}`, 404)
	changed := ask("PATCH", at+"/tests/t-start", `{"phases":[{"id":"login","name":"to the sign-in"}]}`, 200)
	assert.Contains(t, field(t, changed, "notice"), "new test")
	ask("DELETE", at+"/tests/t-wake", "", 200)
	ask("DELETE", at+"/tests/t-wake", "", 404)
	ask("PUT", at+"/excuses", `{"test":"t-start","setup":"then","why":"too ill"}`, 200)
	ask("PUT", at+"/excuses", `{"test":"nap","setup":"then","why":"x"}`, 404)
	cleaned := ask("POST", at+"/work", `{"what":"cleaning","note":"fan"}`, 201)
	work := at + "/work/" + field(t, cleaned, "job", "job", "work", "0", "id").(string)
	ask("PATCH", work, `{"what":"cooling","touches":false}`, 200)
	ask("PATCH", work, `{"what":"singing"}`, 422)
	ask("DELETE", work, "", 200)
	ask("DELETE", work, "", 404)
	ask("POST", at+"/work", `{"what":"singing"}`, 422)
	ask("GET", at+"/earlier", "", 200)
	ask("POST", at+"/earlier", `{"job":"`+id+`"}`, 409)
	ask("POST", at+"/other-drives", `{"drive":{"kind":"hdd","capacity_bytes":1000000000000},"holds":"games"}`, 201)
	ask("POST", at+"/other-drives", `{"drive":{"kind":"tape"}}`, 422)
	ask("DELETE", at+"/other-drives/d3", "", 200)
	ask("DELETE", at+"/other-drives/d3", "", 404)
	ask("POST", at+"/steps", `{"text":"Call the customer","when":"back"}`, 201)
	ask("POST", at+"/steps", `{"text":"","when":"back"}`, 422)
	ask("PUT", at+"/steps/backup", `{"done":true,"by":"Runa"}`, 200)
	ask("GET", at+"/steps/backup", "", 200)
	ask("GET", at+"/steps/nap", "", 404)
	ask("PUT", at+"/steps/nap", `{"done":true}`, 404)
	ask("DELETE", at+"/steps/backup", "", 409)
	ask("DELETE", at+"/steps/own-1", "", 200)
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 8, 8))))
	with := ask("POST", at+"/steps/screws/photos?name=inside.png", picture.String(), 201)
	var photo string
	for _, s := range field(t, with, "job", "plan", "steps").([]any) {
		if photos, ok := s.(map[string]any)["photos"].([]any); ok && len(photos) > 0 {
			photo = photos[0].(map[string]any)["id"].(string)
		}
	}
	ask("POST", at+"/steps/screws/photos?name=x", "not a picture", 422)
	ask("POST", at+"/steps/nap/photos?name=x", picture.String(), 404)
	sat := field(t, ask("POST", at+"/sittings", `{"setup":"then","conditions":{}}`, 201), "job", "sittings", "last",
		"id").(string)
	seen := ask("POST", at+"/sittings/"+sat+"/photos?name=screen.png", picture.String(), 201)
	assert.Equal(t, "screen.png", field(t, seen, "job", "sittings", "last", "photos", "0", "name"))
	run := field(t, ask("POST", at+"/runs", `{"test":"t-start","sitting":"`+sat+`","value":92,"unit":"s","sure":true}`,
		201),
		"job", "runs", "last", "id").(string)
	ask("POST", at+"/sittings/s99/photos", picture.String(), 404)
	read := ask("POST", at+"/runs/"+run+"/photos?name=dial.png", picture.String(), 201)
	assert.Equal(t, "dial.png", field(t, read, "job", "runs", "last", "photos", "0", "name"))
	ask("GET", at+"/photos/"+field(t, ask("GET", at, "", 200), "job", "runs", "last", "photos", "0", "id").(string), "",
		200)
	ask("POST", at+"/runs/none/photos", picture.String(), 404)
	ask("POST", at+"/runs/"+run+"/photos", "not a picture", 422)
	assert.Equal(t, "\x89PNG", string(ask("GET", at+"/photos/"+photo, "", 200)[:4]))
	ask("GET", "/api/jobs/nobody/photos/"+photo, "", 404)
	// A case is closed once its steps are ticked, or a reason is given.
	ask("POST", at+"/gates", `{"gate":"case-closed"}`, 409)
	for _, step := range []string{"started", "fans", "cables", "inside"} {
		ask("PUT", at+"/steps/"+step, `{"done":true,"by":"Runa"}`, 200)
	}
	ask("POST", at+"/gates", `{"gate":"case-closed"}`, 200)
	ask("POST", at+"/gates", `{"gate":"case-closed"}`, 409)
	// One is chosen for the report, which holds it whole.
	ask("PUT", at+"/report/draft", `{"photos":["nobody"]}`, 422)
	ask("PUT", at+"/report/draft", `{"photos":["`+photo+`"]}`, 200)
	shown := ask("GET", at+"/report", "", 200)
	assert.Equal(t, "\xff\xd8\xff", func() string {
		data, err := base64.StdEncoding.DecodeString(field(t, shown, "draft", "photos", "0", "data").(string))
		require.NoError(t, err)
		return string(data[:3])
	}(), "as JPEG")
	assert.NotEmpty(t, field(t, shown, "draft", "photos", "0", "caption"))
	ask("PUT", at+"/report/draft", `{}`, 200)
	ask("POST", at+"/setups", `{"name":"the cheap one","drive":{"kind":"sata-ssd"}}`, 201)
	ask("GET", at+"/setups/trial1", "", 200)
	ask("GET", at+"/setups/nowhere", "", 404)
	ask("POST", at+"/setups", `{"drive":{"kind":"nvme","capacity_bytes":5}}`, 422)
	ask("PUT", at+"/setups/trial1/stays", "", 200)
	ask("PUT", at+"/setups/then/stays", "", 200)
	ask("PUT", at+"/setups/nobody/stays", "", 404)
	ask("PATCH", at+"/setups/now",
		`{"relation":"added","attached":{"port":"sata","link_mb_s":600},"drive":{"queue_depth":32}}`, 200)
	ask("PATCH", at+"/setups/now", `{"relation":"marries"}`, 422)
	ask("PATCH", at+"/setups/nobody", `{"relation":"added"}`, 404)
	ask("PUT", at+"/drives/d1/fate", `{"fate":"stays-inside"}`, 200)
	ask("PUT", at+"/drives/d1/fate", `{"fate":"eaten"}`, 422)
	ask("PUT", at+"/sittings/s1/purpose",
		`{"purpose":"question","question":"on battery","where":{"computer":"bench","port":"usb"}}`, 200)
	ask("PUT", at+"/sittings/s1/purpose", `{"purpose":"question"}`, 422)
	ask("PUT", at+"/sittings/s1/purpose", `{"purpose":"visit"}`, 200)
	ask("PUT", at+"/setups/nowhere/stays", "", 404)
	ask("PUT", at+"/setups/then/used", `{"bytes":200000000000}`, 200)
	ask("PUT", at+"/setups/then/used", `{"bytes":-1}`, 422)
	file := `{"format":"nowthen-sitting","version":1,"probe":{"engine":"2"},"conditions":{"power":"mains"},
		"tests":[{"id":"x","kind":"note","name":"Hum","unit":"Hz","better":"lower"}],"runs":[{"id":"P1","test":"x","sitting":"s1","value":50,"method":"automatic"}]}`
	ask("POST", at+"/setups/then/sitting-file?name=p.json", file, 201)
	ask("POST", at+"/setups/then/sitting-file?name=p.json", file, 409)
	ask("POST", at+"/setups/then/sitting-file?name=p.json", file[:80], 422)
	ask("POST", at+"/setups/nowhere/sitting-file", strings.Replace(file, "P1", "P2", 1), 404)
	templates := ask("POST", "/api/templates", `{"job":"`+id+`","name":"Our tills"}`, 201)
	ask("POST", "/api/templates", `{"job":"`+id+`","name":""}`, 422)
	own := field(t, templates, "last", "id").(string)
	ask("GET", "/api/templates/"+own, "", 200)
	ask("GET", "/api/templates/moon", "", 404)
	ask("PUT", at+"/template", `{"template":"`+own+`"}`, 200)
	ask("DELETE", "/api/templates/"+own, "", 200)
	ask("DELETE", "/api/templates/games", "", 404)
}

func operations(doc *openapi3.T) []string {
	var all []string
	for path, item := range doc.Paths.Map() {
		for method := range item.Operations() {
			all = append(all, method+" "+path)
		}
	}
	sort.Strings(all)
	return all
}

// The routes are those of the contract, neither more nor less.
func TestRoutesAreThoseOfTheContract(t *testing.T) {
	var routes []string
	for _, r := range newServer(t).app.GetRoutes(true) {
		if !strings.HasPrefix(r.Path, "/api/") && !strings.HasPrefix(r.Path, "/f/") || r.Method == "HEAD" {
			continue
		}
		path := r.Path
		for _, p := range r.Params {
			path = strings.Replace(path, ":"+p, "{"+p+"}", 1)
		}
		routes = append(routes, r.Method+" "+path)
	}
	sort.Strings(routes)
	assert.Equal(t, operations(load(t)), routes)
}

func do(t *testing.T, s *Server, req *http.Request) (int, string, http.Header) {
	t.Helper()
	res, err := s.app.Test(req, fiber.TestConfig{Timeout: 0})
	require.NoError(t, err)
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return res.StatusCode, string(body), res.Header
}

func TestForeignPagesAreRefused(t *testing.T) {
	s := newServer(t)
	tests := []struct {
		name   string
		method string
		host   string
		header map[string]string
		want   int
	}{
		{"own page", "POST", "127.0.0.1:7117",
			map[string]string{"Origin": "http://127.0.0.1:7117", "Sec-Fetch-Site": "same-origin"}, 201},
		{"no browser", "POST", "localhost:7117", nil, 201},
		{"another page's form", "POST", "127.0.0.1:7117",
			map[string]string{"Origin": "http://shop.example", "Sec-Fetch-Site": "cross-site"}, 403},
		{"an old browser's form", "POST", "127.0.0.1:7117", map[string]string{"Origin": "http://shop.example"}, 403},
		{"another port's page", "POST", "127.0.0.1:7117", map[string]string{"Origin": "http://127.0.0.1:8080"}, 403},
		{"another page that reads", "GET", "127.0.0.1:7117", map[string]string{"Sec-Fetch-Site": "cross-site"}, 403},
		{"another page of this computer that reads", "GET", "127.0.0.1:7117",
			map[string]string{"Sec-Fetch-Site": "same-site"}, 403},
		{"a sandboxed frame", "POST", "127.0.0.1:7117", map[string]string{"Origin": "null"}, 403},
		{"a name made to point here", "GET", "shop.example", nil, 421},
		{"reading", "GET", "127.0.0.1:7117", nil, 200},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			body := ""
			if tt.method == "POST" {
				body = `{"customer":{"name":"x"},"simulated":"laptop"}`
			}
			req := request(tt.method, "/api/jobs", body)
			req.Host = tt.host
			for k, v := range tt.header {
				req.Header.Set(k, v)
			}
			status, answer, _ := do(t, s, req)
			assert.Equal(t, tt.want, status, answer)
		})
	}
}

func TestARepeatedCommandIsDoneOnce(t *testing.T) {
	s := newServer(t)
	open := func(key string) string {
		req := request("POST", "/api/jobs", `{"customer":{"name":"twice"},"simulated":"laptop"}`)
		req.Header.Set("Idempotency-Key", key)
		status, body, _ := do(t, s, req)
		require.Equal(t, 201, status, body)
		return field(t, []byte(body), "id").(string)
	}
	assert.Equal(t, open("a"), open("a"))
	assert.NotEqual(t, open("a"), open("b"))
	req := request("POST", "/api/jobs", `{}`)
	req.Header.Set("Idempotency-Key", strings.Repeat("x", 300))
	status, _, _ := do(t, s, req)
	assert.Equal(t, 400, status)
}

func TestTheFrontEnd(t *testing.T) {
	s := newServer(t)
	for _, path := range []string{"/", "/jobs/x/ledger", "/../../etc/passwd", "/.git/config"} {
		status, body, header := do(t, s, request("GET", path, ""))
		assert.Equal(t, 200, status, path)
		assert.Contains(t, body, "the page")
		assert.Contains(t, header.Get("Content-Security-Policy"), "default-src 'self'")
		assert.Equal(t, "nosniff", header.Get("X-Content-Type-Options"))
	}
	status, body, _ := do(t, s, request("GET", "/assets/x.js", ""))
	assert.Equal(t, 200, status)
	assert.Equal(t, "1", body)
	status, _, _ = do(t, s, request("GET", "/assets/gone.js", ""))
	assert.Equal(t, 404, status)
	status, body, _ = do(t, s, request("GET", "/api/gone", ""))
	assert.Equal(t, 404, status)
	assert.Contains(t, body, "urn:nowthen:problem:missing")
}

// bound is a listener on a free port of this computer.
func bound(t testing.TB) net.Listener {
	ln, err := Bind("127.0.0.1:0", slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	return ln
}

// listen starts a server on a free port of this computer.
func listen(t testing.TB, s *Server) (base string, stop func()) {
	t.Helper()
	ctx, cancel := context.WithCancel(t.Context())
	addr, ended := make(chan string, 1), make(chan error, 1)
	go func() { ended <- s.Serve(ctx, bound(t), func() { addr <- s.addr }) }()
	base = "http://" + <-addr
	return base, func() {
		cancel()
		require.NoError(t, <-ended)
	}
}

func TestEventsTellWhatHappened(t *testing.T) {
	s := newServer(t)
	base, stop := listen(t, s)
	res, err := http.Get(base + "/api/events")
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Equal(t, "text/event-stream", res.Header.Get("Content-Type"))
	lines := bufio.NewScanner(res.Body)
	require.True(t, lines.Scan())
	assert.Equal(t, "retry: 1000", lines.Text())
	opened, err := http.Post(base+"/api/jobs", "application/json",
		strings.NewReader(`{"customer":{"name":"x"},"simulated":"laptop"}`))
	require.NoError(t, err)
	body, err := io.ReadAll(opened.Body)
	require.NoError(t, err)
	require.NoError(t, opened.Body.Close())
	id := field(t, body, "id").(string)
	for lines.Scan() {
		if data, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
			assert.Equal(t, id, field(t, []byte(data), "job"))
			assert.Equal(t, "job", field(t, []byte(data), "type"))
			break
		}
	}
	stop() // ends although the stream is open
}

func TestEventsEndWithTheSession(t *testing.T) {
	s, cookie := opened(t)
	base, stop := listen(t, s)
	defer stop()
	req, err := http.NewRequestWithContext(t.Context(), "GET", base+"/api/events", nil)
	require.NoError(t, err)
	req.Header.Set("Cookie", cookie)
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	lines := bufio.NewScanner(res.Body)
	require.True(t, lines.Scan())
	require.NoError(t, s.o.Guard.EndAll(t.Context()))
	_, err = s.desk.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: "not for their eyes"}, Simulated: "laptop"})
	require.NoError(t, err)
	rest, err := io.ReadAll(res.Body) // ends
	require.NoError(t, err)
	assert.NotContains(t, string(rest), "data:")
}

func TestLoopback(t *testing.T) {
	for addr, want := range map[string]bool{"127.0.0.1:7117": true, "localhost:0": true, "[::1]:80": true,
		"127.8.8.8:1":  true,
		"0.0.0.0:7117": false, ":7117": false, "192.0.2.7:80": false, "shop.example:80": false, "": false} {
		assert.Equal(t, want, Loopback(addr), addr)
	}
}

// A Ctrl-C that comes while the program says where it is ends it all the same.
func TestEndedBeforeTheFirstConnection(t *testing.T) {
	for range 20 {
		s := newServer(t)
		ctx, end := context.WithCancel(t.Context())
		ended := make(chan error, 1)
		go func() {
			ended <- s.Serve(ctx, bound(t), func() {
				end()
				runtime.Gosched() // the shutdown may be quicker than what it shuts down
			})
		}()
		require.NoError(t, <-ended, "it ends")
	}
}
