package server

import (
	"database/sql"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/backup"
)

// anyJob is the id of a job of the demonstration.
func anyJob(t *testing.T, s *Server) string {
	t.Helper()
	status, body, _ := do(t, s, request("GET", "/api/jobs", ""))
	require.Equal(t, 200, status)
	return field(t, []byte(body), "cards", "0", "id").(string)
}

// No list fails, whatever page is requested.
func TestAnyPageOfAnyList(t *testing.T) {
	s := newServer(t)
	job := anyJob(t, s)
	lists := 0
	for path, item := range load(t).Paths.Map() {
		if item.Get == nil || item.Get.Parameters.GetByInAndName("query", "limit") == nil {
			continue
		}
		lists++
		path = "/api" + strings.ReplaceAll(strings.TrimPrefix(path, "/api"), "{job}", job)
		for _, limit := range []string{"-1", "0", "1001", "x", "1.5", "99999999999999999999", "-9223372036854775808",
			"%00", " 1"} {
			status, body, _ := do(t, s, request("GET", path+"?limit="+url.QueryEscape(limit), ""))
			assert.Equal(t, 422, status, "%s %q: %s", path, limit, body)
		}
		for _, good := range []string{"limit=1", "limit=1000", ""} {
			status, body, _ := do(t, s, request("GET", path+"?"+good, ""))
			assert.Equal(t, 200, status, "%s %s: %s", path, good, body)
		}
		for _, cursor := range []string{"nobody", "\x00", "%", strings.Repeat("x", 2000), "AAAA", "IA"} {
			status, body, _ := do(t, s, request("GET", path+"?cursor="+url.QueryEscape(cursor), ""))
			assert.Contains(t, []int{200, 422}, status, "%s %q: %s", path, cursor, body)
		}
	}
	assert.GreaterOrEqual(t, lists, 5)
}

// Every id that a job file may have can be addressed.
func TestAnyIDInAnAddress(t *testing.T) {
	s := newServer(t)
	for _, id := range []string{"t start", "t-kälte", "a+b", "t/x", "a%2Fb", "100%", "?", "#1", "..", "日本", "a;b", "'",
		`"`} {
		t.Run(id, func(t *testing.T) {
			file := strings.ReplaceAll(`{"format":"nowthen-job","version":1,"job":{"number":"N","opened":"2026-11-03T09:40:00+01:00"},
				"computers":[{"id":"c"}],"drives":[{"id":"d","kind":"hdd"}],"plan":{},
				"tests":[{"id":ID,"kind":"timed","what":"cold-start","name":"Start","unit":"s","better":"lower"}],
				"setups":[{"id":ID,"role":"then","computer":"c","drive":"d","system":{"origin":"as-arrived"}}],
				"sittings":[{"id":ID,"setup":ID,"started":"2026-11-03T10:00:00+01:00","conditions":{}}],
				"runs":[{"id":ID,"test":ID,"sitting":ID,"at":"2026-11-03T10:00:00+01:00","value":9,"method":"typed"}]}`, "ID", strconv.Quote(id))
			req := request("POST", "/api/jobs/import?as=copy", file)
			req.Header.Set("Content-Type", "application/octet-stream")
			status, body, _ := do(t, s, req)
			require.Equal(t, 201, status, body)
			job := field(t, []byte(body), "id").(string)
			at := url.PathEscape(id)
			for _, path := range []string{"/tests/" + at, "/setups/" + at, "/sittings/" + at, "/runs/" + at} {
				status, body, _ := do(t, s, request("GET", "/api/jobs/"+job+path, ""))
				if assert.Equal(t, 200, status, "%s: %s", path, body) {
					assert.Equal(t, id, field(t, []byte(body), "id"), path)
				}
			}
			for method, path := range map[string]string{http.MethodPut: "/runs/" + at + "/set-aside",
				http.MethodDelete: "/runs/" + at + "/set-aside"} {
				status, body, _ := do(t, s,
					request(method, "/api/jobs/"+job+path,
						map[string]string{http.MethodPut: `{"reason":"door"}`}[method]))
				assert.Less(t, status, 500, "%s %s: %s", method, path, body)
				assert.NotEqual(t, 404, status, "%s %s: %s", method, path, body)
			}
		})
	}
}

// A damaged finished job doesn't affect the evaluation of the others.
func TestADamagedFinishedJob(t *testing.T) {
	dir := t.TempDir()
	made, err := demonstration()
	require.NoError(t, err)
	require.NoError(t, os.CopyFS(dir, os.DirFS(made)))
	raw, err := sql.Open("sqlite", filepath.Join(dir, backup.Database))
	require.NoError(t, err)
	defer raw.Close()
	_, err = raw.Exec(`UPDATE jobs SET body = 'x' WHERE finished = 1`)
	require.NoError(t, err)
	s := newServerOver(t, dir, Options{})
	status, body, _ := do(t, s, request("POST", "/api/settings/usual", ""))
	assert.Equal(t, 200, status, body)
	assert.EqualValues(t, 0, field(t, []byte(body), "jobs"), "it is not counted among those that tell something")
	status, body, _ = do(t, s, request("GET", "/api/jobs", ""))
	require.Equal(t, 200, status, body)
	asked := 0
	for i := range len(field(t, []byte(body), "cards").([]any)) {
		at := fmt.Sprint(i)
		if field(t, []byte(body), "cards", at, "kind") == "upgrade" {
			status, told, _ := do(t, s,
				request("GET", "/api/jobs/"+field(t, []byte(body), "cards", at, "id").(string)+"/forecast", ""))
			assert.Equal(t, 200, status, told)
			asked++
		}
	}
	assert.Positive(t, asked)
}

// A damaged job is named on the start page, can't be opened, and doesn't affect the others.
func TestADamagedJobOnTheBench(t *testing.T) {
	dir := t.TempDir()
	made, err := demonstration()
	require.NoError(t, err)
	require.NoError(t, os.CopyFS(dir, os.DirFS(made)))
	raw, err := sql.Open("sqlite", filepath.Join(dir, backup.Database))
	require.NoError(t, err)
	defer raw.Close()
	var id, number, other string
	require.NoError(t, raw.QueryRow(`SELECT id, number FROM jobs WHERE finished = 0 LIMIT 1`).Scan(&id, &number))
	require.NoError(t, raw.QueryRow(`SELECT id FROM jobs WHERE finished = 0 AND id <> ? LIMIT 1`, id).Scan(&other))
	_, err = raw.Exec(`UPDATE sittings SET body = 'x' WHERE job_id = ?`, id)
	require.NoError(t, err)
	_, err = raw.Exec(`UPDATE jobs SET body = 'x' WHERE id = ?`, id)
	require.NoError(t, err)
	s := newServerOver(t, dir, Options{})
	status, body, _ := do(t, s, request("GET", "/api/jobs", ""))
	require.Equal(t, 200, status, body)
	assert.Equal(t, number, field(t, []byte(body), "damaged", "0", "number"))
	assert.NotContains(t, body, `"id":"`+id+`","number":"`+number+`","opened"`)
	status, body, _ = do(t, s, request("GET", "/api/jobs/"+id, ""))
	assert.Equal(t, 500, status)
	assert.Equal(t, "urn:nowthen:problem:damaged", field(t, []byte(body), "type"))
	assert.Contains(t, field(t, []byte(body), "do"), "nowthen restore")
	status, body, _ = do(t, s, request("GET", "/api/jobs/"+other, ""))
	assert.Equal(t, 200, status, body)
	for _, path := range []string{"/api/due", "/api/settings/usual", "/api/jobs/" + other + "/earlier",
		"/api/jobs?state=all"} {
		status, body, _ = do(t, s, request("GET", path, ""))
		assert.Equal(t, 200, status, "%s: %s", path, body)
	}
}
