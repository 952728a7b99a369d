package server

import (
	"fmt"
	"net/http"
	"os"
	"strconv"
	"sync"
	"sync/atomic"
	"testing"

	"nowthen/core/job"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A probe sends a flood of runs at once, some of them twice: each is stored once or refused, none gets into
// another job, and the bench continues. NOWTHEN_MANY says how many; a few hundred are enough to see it.
func TestManyRunsAtOnce(t *testing.T) {
	many := 150
	if n, err := strconv.Atoi(os.Getenv("NOWTHEN_MANY")); err == nil {
		many = n
	}
	s := newServer(t)
	ask := func(method, path, body string, want int) []byte {
		t.Helper()
		status, answer, _ := do(t, s, request(method, path, body))
		require.Equal(t, want, status, answer)
		return []byte(answer)
	}
	var at [2]string
	for i := range at {
		at[i] = "/api/jobs/" +
			field(t, ask("POST", "/api/jobs", `{"customer":{"name":"Otter Lane Pottery"},"simulated":"laptop"}`, 201),
				"id").(string)
		ask("POST", at[i]+"/sittings", `{"setup":"then","conditions":{}}`, 201)
	}
	code := field(t, ask("POST", at[0]+"/pairing", "", 201), "code").(string)
	welcome := ask("POST", "/api/probe/join", `{"code":"`+code+`","protocol":1,"engine":"5","system":"linux/amd64","simulated":"laptop",
		"facts":{"computer":{},"system":{},"drives":[],"volumes":[],"partitions":[],"absent":[]}}`, 201)
	token, probe := field(t, welcome, "token").(string), field(t, welcome, "probe").(string)
	ask("POST", at[0]+"/measuring", `{"sitting":"s1","tests":["t-long-read"],"runs":1,"probe":"`+probe+`"}`, 202)
	as := func(method, path, body string) (int, string) {
		req := request(method, path, body)
		req.Header.Set("Authorization", "Bearer "+token)
		status, answer, _ := do(t, s, req)
		return status, answer
	}
	_, o := as("GET", "/api/probe/work?doing=", "")
	order := field(t, []byte(o), "id").(string)

	var taken, refused atomic.Int64
	var wg sync.WaitGroup
	next := make(chan int)
	for range 50 {
		wg.Go(func() {
			for i := range next {
				sitting := "s1"
				if i%10 == 9 {
					sitting = "s2" // there is none
				}
				run := fmt.Sprintf(`{"order":%q,"step":0,"run":{"id":"flood%06d","test":"t-long-read","sitting":%q,"value":%d,"method":"automatic","set_aside":null}}`, order, i, sitting, 90+i%20)
				for range 1 + i%2 { // every second twice
					switch status, answer := as("POST", "/api/probe/runs", run); {
					case status == http.StatusNoContent:
						taken.Add(1)
					case status >= 400 && status < 500:
						refused.Add(1)
					default:
						t.Errorf("%d: %s", status, answer)
					}
				}
			}
		})
	}
	for i := range many {
		next <- i
	}
	close(next)
	wg.Wait()
	snapshot, err := s.desk.Jobs.Load(t.Context(), at[0][len("/api/jobs/"):])
	require.NoError(t, err)
	assert.Len(t, snapshot.Job.Runs, 1, "the one that was ordered")
	waits := map[string]int{}
	for _, w := range snapshot.Job.Head.Waiting {
		waits[w.Run.ID]++
	}
	assert.Len(t, waits, min(many-1, job.MaxWaiting), "the others wait for a technician")
	for id, n := range waits {
		assert.Equal(t, 1, n, id)
	}
	assert.Positive(t, taken.Load())
	assert.Equal(t, many > job.MaxWaiting, refused.Load() > 0)
	other, err := s.desk.Jobs.Load(t.Context(), at[1][len("/api/jobs/"):])
	require.NoError(t, err)
	assert.Empty(t, other.Job.Runs)
	ask("GET", at[0]+"/ledger", "", 200)
}
