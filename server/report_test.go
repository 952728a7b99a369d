package server

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A customer reads the report that the link is for, from outside and without signing in, and
// nothing else; a link that was revoked, that has expired and that was never made answer alike.
func TestASharedReport(t *testing.T) {
	s, cookie := opened(t)
	technician := func(method, path, body string) (int, string) {
		req := request(method, path, body)
		req.Host = elsewhere + ":7117"
		req.Header.Set("Cookie", cookie)
		status, answer, _ := do(t, s, req)
		return status, answer
	}
	customer := func(path string) (int, string, http.Header) {
		req := request("GET", path, "")
		req.Host = elsewhere + ":7117"
		return do(t, s, req)
	}
	_, board := technician("GET", "/api/jobs?state=finished", "")
	id := field(t, []byte(board), "cards", "0", "id").(string)
	_, view := technician("GET", "/api/jobs/"+id, "")
	status, made := technician("POST", "/api/jobs/"+id+"/shares", `{}`)
	require.Equal(t, 201, status, made)
	token := field(t, []byte(made), "token").(string)
	assert.GreaterOrEqual(t, len(token), 32, "nobody guesses it")
	status, page, header := customer("/r/" + token)
	require.Equal(t, 200, status)
	assert.Contains(t, page, "From switching on until you can work")
	assert.Contains(t, header.Get("X-Robots-Tag"), "noindex")
	assert.Contains(t, header.Get("Content-Security-Policy"), "default-src 'none'")
	assert.NotContains(t, page, "after 17:00", "how the customer is reached is the shop's own")
	assert.NotContains(t, page, id)
	assert.NotContains(t, page, "Bindery", "another job")
	require.Contains(t, view, "after 17:00")
	status, _, _ = customer("/api/jobs/" + id)
	assert.Equal(t, 401, status)
	_, list := technician("GET", "/api/jobs/"+id+"/shares", "")
	assert.InDelta(t, 1, field(t, []byte(list), "0", "opened"), 0)
	assert.NotContains(t, list, token)

	_, short := technician("POST", "/api/jobs/"+id+"/shares", `{"days":1}`)
	expired := field(t, []byte(short), "token").(string)
	s.desk.Jobs.Shift(25 * 3600 * 1e9)
	status, _ = technician("DELETE", "/api/jobs/"+id+"/shares/"+field(t, []byte(made), "id").(string), "")
	require.Equal(t, 200, status)
	answers := map[string]bool{}
	for _, token := range []string{token, expired, strings.Repeat("A", 32), "x", "..%2f..%2fapi"} {
		status, page, _ := customer("/r/" + token)
		assert.Equal(t, 404, status, token)
		answers[page] = true
	}
	assert.Len(t, answers, 1, "they answer alike")
	// A later report does not change what a link shows.
	_, again := technician("POST", "/api/jobs/"+id+"/shares", `{}`)
	before := field(t, []byte(again), "token").(string)
	_, first, _ := customer("/r/" + before)
	status, _ = technician("POST", "/api/jobs/"+id+"/report?lang=de", "")
	require.Equal(t, 201, status)
	_, still, _ := customer("/r/" + before)
	assert.Equal(t, first, still)
}
