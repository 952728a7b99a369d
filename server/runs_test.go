package server

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench/visit"
)

// A job is answered without its runs where that is asked for: when it is read, changed, and when a change was
// meant for an earlier revision. Without that, nothing changes.
func TestAJobWithoutItsRuns(t *testing.T) {
	s := newServer(t)
	b, err := s.desk.Visits.Board(t.Context(), visit.Ask{})
	require.NoError(t, err)
	job := "/api/jobs/" + b.Cards[len(b.Cards)-1].ID
	_, whole, header := do(t, s, request("GET", job, ""))
	require.True(t, strings.Contains(whole, `"runs":[{`))
	stale := header.Get("ETag")
	for name, tt := range map[string]struct {
		method, path, body, match string
		status                    int
	}{
		"read":                {"GET", job, "", "", 200},
		"changed":             {"PATCH", job, `{"reason": "slow"}`, "", 200},
		"with a notice":       {"PATCH", job + "/plan", `{"tests": {}}`, "", 200},
		"for an earlier time": {"PATCH", job, `{"reason": "slower"}`, stale, 412},
	} {
		t.Run(name, func(t *testing.T) {
			ask := func(query string) string {
				req := request(tt.method, tt.path+query, tt.body)
				if tt.match != "" {
					status, text, _ := do(t, s, request("PATCH", job, `{"reason": "in between"}`))
					require.Equal(t, 200, status, text)
					req.Header.Set("If-Match", tt.match)
				}
				status, text, _ := do(t, s, req)
				require.Equal(t, tt.status, status, text)
				return text
			}
			bare := ask("?runs=none")
			assert.NotContains(t, bare, `"runs":`)
			assert.Contains(t, bare, `"sittings":`)
			assert.Contains(t, bare, `"coverage":`)
			full := ask("")
			assert.Contains(t, full, `"runs":[{`)
			assert.Greater(t, len(full), len(bare))
		})
	}
}

// Every operation that answers with a job takes it.
func TestEveryJobIsAskedForWithoutItsRuns(t *testing.T) {
	n := 0
	for path, item := range load(t).Paths.Map() {
		for method, op := range item.Operations() {
			for _, res := range op.Responses.Map() {
				json := res.Value.Content.Get("application/json")
				if json == nil || json.Schema == nil || !strings.HasSuffix(json.Schema.Ref, "/View") &&
					!strings.HasSuffix(json.Schema.Ref, "/Changed") {
					continue
				}
				n++
				assert.NotNil(t, op.Parameters.GetByInAndName("query", "runs"), "%s %s", method, path)
			}
		}
	}
	assert.Greater(t, n, 40)
}
