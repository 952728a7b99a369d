package e2e

import (
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/store"
	"nowthen/testscale"
)

// Killed twenty times in the middle of measuring: every run that had been
// acknowledged is there, the database is whole, and no test file is left after
// the next start.
func TestKilledInTheMiddleOfMeasuring(t *testing.T) {
	testscale.Rare(t)
	t.Parallel()
	data, dir := t.TempDir(), onDrive(t)
	type view struct {
		ID  string
		Job struct{ Runs []struct{ ID string } }
	}
	var id string
	acknowledged := map[string]bool{}
	check := func(v view) {
		have := map[string]bool{}
		for _, r := range v.Job.Runs {
			have[r.ID] = true
		}
		for run := range acknowledged {
			assert.True(t, have[run], "run %s had been acknowledged and is gone", run)
		}
	}
	for n := range 20 {
		s := serve(t, data, "serve")
		empty(t, dir)
		var v view
		if id == "" {
			s.ask("POST", "/api/jobs",
				map[string]any{"customer": map[string]any{"name": "Ottilie"},
					"old_drive":       map[string]any{"kind": "sata-ssd"},
					"test_file_bytes": 16 << 20, "test_seconds": 0.2}, &v)
			id = v.ID
			s.ask("POST", "/api/jobs/"+id+"/sittings", map[string]any{"setup": "then", "conditions": map[string]any{}},
				nil)
		}
		s.ask("GET", "/api/jobs/"+id, nil, &v)
		check(v)
		s.ask("POST", "/api/jobs/"+id+"/measuring", map[string]any{"sitting": "s1", "dir": dir, "runs": 20}, nil)
		// Each time a little later; what a page has been told in the meantime counts.
		for until := time.Now().Add(time.Duration(100+37*n) * time.Millisecond); time.Now().Before(until); {
			s.ask("GET", "/api/jobs/"+id, nil, &v)
			for _, r := range v.Job.Runs {
				acknowledged[r.ID] = true
			}
		}
		s.kill()
		db, err := store.Open(filepath.Join(data, "nowthen.db"), store.Options{})
		require.NoError(t, err)
		found, err := db.Integrity(t.Context())
		require.NoError(t, err)
		assert.Empty(t, found)
		require.NoError(t, db.Close())
	}
	s := serve(t, data, "serve")
	empty(t, dir)
	var v view
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	check(v)
	assert.NotEmpty(t, acknowledged, "something was measured before the kills")
}
